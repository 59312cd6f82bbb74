#!/usr/bin/env bash
# What delivered apps are held against, for the tests: into a folder of its own, where npm is there.
set -u
to=$1
command -v npm >/dev/null || { echo "npm is not there: some tests of delivered apps will not run"; exit 0; }
mkdir -p "$to" && cp requirements/node/package.json "$to/package.json"
(cd "$to" && npm install --no-package-lock --no-audit --no-fund --silent >/dev/null 2>&1) \
  || echo "npm could not bring what requirements/node names: some tests will not run"
exit 0
