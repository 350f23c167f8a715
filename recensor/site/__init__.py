"""The web site: settings, addresses, base templates, styles and scripts."""
