"""`python -m topion`"""

import sys

from topion.cli import main

sys.exit(main())
