"""Starting and stopping: private PostgreSQL, web and worker processes, the command line."""
