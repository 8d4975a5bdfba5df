"""How much is in my samples?"""
