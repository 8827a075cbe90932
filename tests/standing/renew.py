"""Shows what the core answers otherwise than was kept, and keeps what it answers now.

python -m tests.standing.renew [--show] [SUBJECT ...]
"""

from __future__ import annotations

import argparse

from tests.standing import answering


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("subjects", nargs="*", default=answering.subjects())
    parser.add_argument("--show", action="store_true", help="keep nothing")
    options = parser.parse_args()
    for subject in options.subjects:
        now = answering.asked_anew(subject)
        changes = list(answering.changed(subject, now))
        print(*changes, f"{subject}: {len(changes)} changed", sep="\n")
        if changes and not options.show:
            answering.keep(subject, now)


if __name__ == "__main__":
    main()
