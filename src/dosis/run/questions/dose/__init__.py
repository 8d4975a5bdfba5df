"""Which dose has half the effect?"""
