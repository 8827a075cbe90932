"""The command's parts: each is where it is looked for, and is read in alone."""

import subprocess
import sys

import pytest

from cold_arc import cli


@pytest.mark.parametrize("command", cli.MODULES)
def test_each_command_is_in_its_module(command, capsys):
    with pytest.raises(SystemExit) as ended:
        cli.main([command, "--help"])
    assert ended.value.code == 0
    assert f"cold-arc {command}" in capsys.readouterr().out


def test_what_is_typed_wrong_is_told_every_command(capsys):
    with pytest.raises(SystemExit) as ended:
        cli.main(["nonsense"])
    assert ended.value.code == 2
    told = capsys.readouterr().err
    assert all(f"'{command}'" in told for command in cli.MODULES)


def test_what_serves_is_not_read_in_to_answer_a_command():
    asked = ["aim", "--rule", "us-vol", "--height", "0.7m", "--distance", "25 ft", "--json"]
    lines = (
        f"import sys; from cold_arc import cli; cli.main({asked}); print('flask' in sys.modules)"
    )
    answer = subprocess.run([sys.executable, "-c", lines], capture_output=True, text=True)
    assert answer.stdout.splitlines()[-1] == "False"
