#!/usr/bin/env bash
# Stops the demo's server, if it runs.
set -euo pipefail
cd "$(dirname "$0")/.."
pid=$(cat .run/demo/pid 2>/dev/null || true)
if [ -n "$pid" ] && kill -0 "$pid" 2>/dev/null; then
	kill "$pid"
	for _ in $(seq 1 100); do
		kill -0 "$pid" 2>/dev/null || break
		sleep 0.1
	done
fi
rm -f .run/demo/pid
