"""From files, databases and frames to raw columns: nothing dropped, every decision told."""
