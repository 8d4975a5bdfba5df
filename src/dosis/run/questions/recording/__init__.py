"""What does this signal mean?"""
