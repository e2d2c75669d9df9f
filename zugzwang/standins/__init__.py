"""Small simulated outside services in a separate process, reached only over HTTP; they import nothing from the product.

They answer as docs/services.md says (`app.py`) from the files of a folder (`ZUGZWANG_STANDINS_DIR`), and serve a simulated
site (`site.ndjson`) under its host name. They can be set to misbehave, as real services do (`Behaviour`).
"""
