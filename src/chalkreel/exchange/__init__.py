"""Writers of open formats: tables, calendar, the build book."""
