"""Linear regression, right to the last digits: terms, coefficients, diagnostics."""

from .linear_fit import Coefficient, Regression, regress

__all__ = ["Coefficient", "Regression", "regress"]
