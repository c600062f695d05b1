"""Topion's place on a Linux desktop: icon, entry, MIME type, metainfo, man page."""
