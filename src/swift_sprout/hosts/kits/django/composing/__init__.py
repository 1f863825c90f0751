"""From a brief to the files of a Django module; each file knows one family of parts."""
