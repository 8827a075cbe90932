"""What a server of the tests' is forked from: the program read in, every template and the kernel
compiled, the bench's first beams computed. What a server forks itself is as ever.
"""

from cold_arc.demo import garage  # noqa: F401
from cold_arc.web.app import build_app, warm
from cold_arc.web.bench import pages as bench
from cold_arc.web.shell.apart import READ_IN
from tests.serving import READY

warm(build_app())
bench.warm()
READY.set_forkserver_preload(READ_IN)
