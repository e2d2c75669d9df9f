"""Small simulated outside services, a process of their own, reached only over HTTP; they import nothing of the product.

They answer as docs/services.md tells (`app.py`) from the files of a folder (`ZUGZWANG_STANDINS_DIR`), and serve a simulated
site (`site.ndjson`) by the name of its host. They can be reported to behave badly, as real services do (`Behaviour`)."""
