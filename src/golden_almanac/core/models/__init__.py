"""Models of an outcome: linear or logistic, a tree, boosted trees; chosen on rows they have not seen."""

from .metrics import METRICS, auc, metric
from .model import KINDS, Chosen, Model, choose, new_rows, rules

__all__ = ["KINDS", "METRICS", "Chosen", "Model", "auc", "choose", "metric", "new_rows", "rules"]
