"""Models of an outcome: linear or logistic, a tree, boosted trees; chosen on rows they have not seen."""

from .outcome_model import KINDS, Chosen, Model, choose, new_rows, rules
from .prediction_metrics import METRICS, auc, metric

__all__ = ["KINDS", "METRICS", "Chosen", "Model", "auc", "choose", "metric", "new_rows", "rules"]
