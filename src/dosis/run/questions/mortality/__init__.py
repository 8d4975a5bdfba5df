"""Which dose kills half?"""
