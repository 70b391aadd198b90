"""Clients of services: a supplier that takes orders, a carrier, rates of exchange."""
