"""How fast is it?"""
