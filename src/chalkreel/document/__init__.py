"""The document: entities, their durable store, undo and file format."""
