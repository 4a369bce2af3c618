"""Our models against a general-purpose library's, on the same folds of data sets it carries. Development only."""
