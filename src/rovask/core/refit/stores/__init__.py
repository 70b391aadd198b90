"""Parts, suppliers, offers, orders, deliveries."""
