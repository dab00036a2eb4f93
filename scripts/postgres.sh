#!/usr/bin/env bash
# A PostgreSQL of the project's own: on loopback, on a free port, in a directory
# of its own. It never touches a cluster that is already on the machine.
#
#   postgres.sh start DIR [SETTING=VALUE ...]   starts it (making it first if need be) and prints its address
#   postgres.sh stop DIR                        stops it
#   postgres.sh url DIR                         prints the address of a running one
#   postgres.sh remove DIR                      stops it and throws its data away
#
# PostgreSQL refuses to run as root. Then the user that Debian made for it owns the
# data; where that user cannot reach DIR, the data goes to a directory in /var/tmp.
set -euo pipefail

command=${1:?start, stop, url or remove}
dir=$(realpath -m "${2:?a directory}")
shift 2

say() { printf '%s\n' "$*" >&2; }

install_postgres() {
	[ -n "$(ls /usr/lib/postgresql/*/bin/initdb 2>/dev/null)" ] && return
	say "Installing PostgreSQL from Debian…"
	local sudo=""
	[ "$(id -u)" = 0 ] || sudo="sudo"
	# Debian would make and start a cluster of its own; this project has no use for it.
	$sudo mkdir -p /etc/postgresql-common/createcluster.d
	echo "create_main_cluster = false" | $sudo tee /etc/postgresql-common/createcluster.d/no-cluster.conf >/dev/null
	$sudo apt-get update -qq >&2
	DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends postgresql >&2
	$sudo rm -f /etc/postgresql-common/createcluster.d/no-cluster.conf
}

as_owner() {
	if [ "$(id -u)" = 0 ]; then
		(cd / && runuser -u postgres -- "$@")
	else
		"$@"
	fi
}

bin() { ls -d /usr/lib/postgresql/*/bin | sort -V | tail -n 1; }
running() { [ -f "$dir/data/postmaster.pid" ] && as_owner "$(bin)/pg_ctl" -D "$dir/data" status >/dev/null 2>&1; }
url() { printf 'postgres://hermeneus:%s@127.0.0.1:%s/hermeneus?sslmode=disable\n' "$(cat "$dir/password")" "$(cat "$dir/port")"; }

# Moves to a directory that the owner of the data can reach.
reach() {
	[ "$(id -u)" = 0 ] || return 0
	local above=$dir
	while [ ! -d "$above" ]; do above=$(dirname "$above"); done
	as_owner test -x "$above" || dir=/var/tmp/hermeneus-$(printf %s "$dir" | cksum | cut -d ' ' -f 1)
}

make_cluster() {
	say "Making a PostgreSQL cluster in $dir…"
	mkdir -p "$dir"
	od -An -N16 -tx1 /dev/urandom | tr -d ' \n' >"$dir/password"
	chmod 600 "$dir/password"
	[ "$(id -u)" = 0 ] && chown -R postgres "$dir"
	as_owner "$(bin)/initdb" -D "$dir/data" -U hermeneus --pwfile="$dir/password" --auth=scram-sha-256 --encoding=UTF8 --locale=C.UTF-8 >/dev/null
}

[ "$command" = start ] && install_postgres
id postgres >/dev/null 2>&1 && reach

case $command in
start)
	[ -f "$dir/data/PG_VERSION" ] || { rm -rf "$dir"; make_cluster; }
	if ! running; then
		port=$(node -e 'const s = require("net").createServer().listen(0, "127.0.0.1", () => { console.log(s.address().port); s.close() })')
		echo "$port" | as_owner tee "$dir/port" >/dev/null
		options="-c listen_addresses=127.0.0.1 -c port=$port -c unix_socket_directories= -c max_connections=200"
		for s in "$@"; do options="$options -c $s"; done
		as_owner "$(bin)/pg_ctl" -D "$dir/data" -l "$dir/log" -w -o "$options" start >/dev/null
		export PGPASSWORD; PGPASSWORD=$(cat "$dir/password")
		"$(bin)/psql" -qtA -h 127.0.0.1 -p "$port" -U hermeneus -d postgres -c "SELECT 1 FROM pg_database WHERE datname = 'hermeneus'" | grep -q 1 ||
			"$(bin)/createdb" -h 127.0.0.1 -p "$port" -U hermeneus hermeneus
	fi
	url
	;;
stop)
	if running; then as_owner "$(bin)/pg_ctl" -D "$dir/data" -m fast -w stop >/dev/null; fi
	;;
remove)
	if running; then as_owner "$(bin)/pg_ctl" -D "$dir/data" -m immediate -w stop >/dev/null; fi
	rm -rf "$dir"
	;;
url) url ;;
*)
	say "start, stop, url or remove"
	exit 2
	;;
esac
