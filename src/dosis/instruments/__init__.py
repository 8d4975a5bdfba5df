"""Instruments: spoken to by plain lines over TCP, in the manner of SCPI (IEEE 488.2); and simulated ones."""
