"""What runs outside a request, through the queue in PostgreSQL."""
