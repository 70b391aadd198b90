"""Starting and stopping: the private PostgreSQL, web and worker processes, the command line."""
