"""What a server of the tests' is forked from: the program read in, every template compiled."""

from cold_arc.demo import garage  # noqa: F401
from cold_arc.web.app import build_app, warm

warm(build_app())
