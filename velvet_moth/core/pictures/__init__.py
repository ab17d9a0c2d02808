"""Pictures in and out: file formats, levels of detail, how a file is read, what is found out about its pixels."""
