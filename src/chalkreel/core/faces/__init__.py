"""The subject's skin: flat faces between landmarks, what they hide, and pictures of them without perspective."""
