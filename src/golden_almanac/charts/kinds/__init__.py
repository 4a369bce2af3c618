"""How each kind of finding is drawn, a file a kind: `draw(finding, survey)` gives its chart."""
