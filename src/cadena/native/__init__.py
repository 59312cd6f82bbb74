"""Shows a wired app with the widgets of the toolkit: what an app for the desktop is run by.

It stands on engine and scene alone, and is taken along with them when an app is handed over.
"""
