"""How much was in it before I added known amounts?"""
