"""The screens: Flask pages, edit endpoints, templates, static files. The browser draws and sends edits."""
