"""How does one thing depend on another?"""
