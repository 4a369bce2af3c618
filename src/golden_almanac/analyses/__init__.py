"""The public calls, one a file: they join core, words, charts and report into what callers use."""
