"""Figures for print: one renderer for the page, files, reports, the command line and notebooks."""
