"""The JSON interface, one blueprint a subject; pydantic checks what comes in."""
