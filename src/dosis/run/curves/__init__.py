"""Fitted curves as every question draws and lists them."""
