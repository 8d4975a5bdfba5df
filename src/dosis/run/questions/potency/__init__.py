"""How strong is it beside a reference?"""
