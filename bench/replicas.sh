#!/usr/bin/env bash
# Reads figures from a streaming replica while evidence comes in: the replica is paused, stopped and started again, and
# no page may mix two states. Both servers run on loopback, in a directory of their own.
set -euo pipefail
cd "$(dirname "$0")/.."
dir=$(realpath -m .run/replicas)
[ "$(id -u)" = 0 ] && dir=/var/tmp/hermeneus-replicas
bin=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -n 1)
as_owner() { if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi; }
finish() {
	[ -d "$dir/replica" ] && as_owner "$bin/pg_ctl" -D "$dir/replica" -m immediate -w stop >/dev/null 2>&1 || true
	scripts/postgres.sh remove "$dir/primary" || true
	rm -rf "$dir"
}
trap finish EXIT
rm -rf "$dir"
mkdir -p "$dir"
[ "$(id -u)" = 0 ] && chown postgres "$dir"
HERMENEUS_TEST_DATABASE=$(scripts/postgres.sh start "$dir/primary" wal_level=replica max_wal_senders=4 wal_keep_size=256MB)
as_owner "$bin/pg_basebackup" -d "$HERMENEUS_TEST_DATABASE" -D "$dir/replica" -R -X stream --checkpoint=fast
port=$(node -e 'const s = require("net").createServer().listen(0, "127.0.0.1", () => { console.log(s.address().port); s.close() })')
owner=""
[ "$(id -u)" = 0 ] && owner="cd / && runuser -u postgres --"
export HERMENEUS_TEST_DATABASE
export START_REPLICA="$owner $bin/pg_ctl -D $dir/replica -l $dir/replica.log -w -o '-c listen_addresses=127.0.0.1 -c port=$port -c unix_socket_directories= -c max_connections=200' start >/dev/null"
export STOP_REPLICA="$owner $bin/pg_ctl -D $dir/replica -m immediate -w stop >/dev/null"
export REPLICA_PORT=$port
bash -c "$START_REPLICA"
go run ./bench/replicas "$@"
