"""Small servers that stand in for services outside: each with its own documented API, none with Rovask's database."""
