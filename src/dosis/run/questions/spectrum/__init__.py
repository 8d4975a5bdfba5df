"""What do these scans show?"""
