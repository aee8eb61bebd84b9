"""The document: entities, their durable store with undo, and the answers derived from them."""
