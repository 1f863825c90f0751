from oscar.apps.offer import migrations as theirs

__path__ = [*__path__, *theirs.__path__]  # the module's own follow those of the host
