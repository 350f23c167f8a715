"""Starting Recensor on one machine: the private database server and the web server."""
