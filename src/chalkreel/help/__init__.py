"""What each page is for and how it goes, a half-page each."""
