#!/bin/sh
# Lines that are not blank: code, tests, and the tests' share of both.
set -eu
code=$(git ls-files 'cold_arc/*.py' 'cold_arc/*.html' 'cold_arc/*.js' 'cold_arc/*.css' 'bench/*.py' 'cold_arc/*.lark' | grep -v vendor | xargs cat | grep -vcE '^\s*$')
tests=$(git ls-files 'tests/*.py' | xargs cat | grep -vcE '^\s*$')
echo "code $code, tests $tests: tests are $((100 * tests / (code + tests))) % of the lines"
