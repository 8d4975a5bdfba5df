"""What a run is — readings, layout, method — and `evaluate`, which turns them into answers."""
