"""From a brief to the files of a Flask module, a file here for each subject."""
