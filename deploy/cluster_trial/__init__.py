"""A runnable trial: three database nodes, two app servers, one proxy, and everything that can happen to them."""
