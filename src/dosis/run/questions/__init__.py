"""The questions a run can be asked, each in a room of its own."""
