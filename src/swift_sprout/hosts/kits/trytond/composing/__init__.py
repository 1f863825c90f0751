"""From briefs to the files of trytond modules."""
