"""The store: MariaDB through plain SQL. One module for each thing stored; one transaction for each user action."""
