# This file is part of the slip yard. The COPYRIGHT file has the terms.
