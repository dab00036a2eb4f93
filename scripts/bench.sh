#!/usr/bin/env bash
# Runs the benchmarks against a PostgreSQL of their own, with its usual durability.
set -euo pipefail
cd "$(dirname "$0")/.."
trap 'scripts/postgres.sh remove .run/bench-postgres' EXIT
HERMENEUS_TEST_DATABASE=$(scripts/postgres.sh start .run/bench-postgres)
export HERMENEUS_TEST_DATABASE
echo "Search"
go run ./bench/search "$@"
echo "Turns of the bot over HTTP"
go run ./bench/turns
echo "Chat turns"
go run ./bench/chat "$@"
echo "Writing"
go run ./bench/writing "$@"
echo "Review and publishing"
go run ./bench/review "$@"
echo "Figures of 100 000 questions"
go run ./bench/figures -load -anew
echo "Start of the built binary against a migrated database"
name=${HERMENEUS_TEST_DATABASE}
HERMENEUS_DATABASE=$name bin/hermeneus migrate >/dev/null
for _ in 1 2 3; do
	began=$(date +%s%N)
	HERMENEUS_DATABASE=$name HERMENEUS_ADDRESS=127.0.0.1:18080 bin/hermeneus serve >/dev/null &
	until node -e 'fetch("http://127.0.0.1:18080/healthz").then((r) => process.exit(r.ok ? 0 : 1), () => process.exit(1))'; do :; done
	echo "        $((($(date +%s%N) - began) / 1000000)) ms until it answers (with the start of the asking program)"
	kill %1
	wait 2>/dev/null || true
done
