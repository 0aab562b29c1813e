"""The documentation as a site: sphinx-build -W docs site, then open site/index.html; search works without a network."""

project = "Empuje"
extensions = ["myst_parser", "sphinx.ext.autodoc", "sphinx.ext.napoleon"]
autodoc_typehints = "none"  # the docstrings say what is taken and given
exclude_patterns = ["cookbook/*"]
html_theme = "furo"
html_title = "Empuje"
html_show_sourcelink = False
myst_heading_anchors = 3
html_show_copyright = html_show_sphinx = False
suppress_warnings = ["misc.highlighting_failure"]  # blocks of what a command prints are no language
