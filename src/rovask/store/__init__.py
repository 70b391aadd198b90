"""PostgreSQL: tables, migrations, loading and saving whole refits, change history, accounts."""
