"""One name turned into another in every spelling: what is found, what it becomes, and what a person must decide."""
