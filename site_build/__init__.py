"""The documentation as a site (`mkdocs build --strict`): the Markdown in `docs`, and what the code says of itself."""
