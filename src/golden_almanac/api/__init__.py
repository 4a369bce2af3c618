"""The public calls, one a file: they join analyses, text, charts and reports into what callers use."""
