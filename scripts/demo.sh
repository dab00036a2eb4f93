#!/usr/bin/env bash
# Starts the demo: a PostgreSQL of its own, then the server in the background.
set -euo pipefail
cd "$(dirname "$0")/.."
port=${PORT:-8080}
run=.run/demo
mkdir -p "$run"

if [ -f "$run/pid" ] && kill -0 "$(cat "$run/pid")" 2>/dev/null; then
	echo "The demo is running already; stopping it first."
	scripts/stop.sh
fi

HERMENEUS_DATABASE=$(scripts/postgres.sh start .run/postgres)
export HERMENEUS_DATABASE
export HERMENEUS_ADDRESS=127.0.0.1:$port
export HERMENEUS_SAMPLE_SITE=127.0.0.1:$((port + 1))
export HERMENEUS_STAND_INS=127.0.0.1:$((port + 2))
export HERMENEUS_NAME=${HERMENEUS_NAME:-Wrenmoor Community Power}
export HERMENEUS_ZONE=${HERMENEUS_ZONE:-Europe/London}
: >"$run/log"
setsid nohup bin/hermeneus demo >>"$run/log" 2>&1 </dev/null &
echo $! >"$run/pid"

# Show what it says until it serves.
shown=0
for _ in $(seq 1 1800); do
	lines=$(wc -l <"$run/log")
	if [ "$lines" -gt "$shown" ]; then
		sed -n "$((shown + 1)),${lines}p" "$run/log"
		shown=$lines
	fi
	if ! kill -0 "$(cat "$run/pid")" 2>/dev/null; then
		echo "The demo did not start; see $run/log. If the port is taken, choose another: make demo PORT=8090"
		exit 1
	fi
	if grep -q '^Serving on' "$run/log" && node -e 'fetch(process.argv[1]).then((r) => process.exit(r.ok ? 0 : 1), () => process.exit(1))' "http://127.0.0.1:$port/healthz"; then
		break
	fi
	sleep 0.1
done

cat <<END

Help centre          http://127.0.0.1:$port/help
Chat                 http://127.0.0.1:$port/chat
Sample member site   http://127.0.0.1:$((port + 1))/     (embeds the chat)
Mail room            http://127.0.0.1:$((port + 2))/     (every mail the program sends)
Staff                http://127.0.0.1:$port/staff

Everybody's password is wrenmoor-demo
  maren@wrenmoor.example   knowledge manager, every role
  ilse@wrenmoor.example    author
  brida@wrenmoor.example   reviewer
  pell@wrenmoor.example    publisher and analyst
  dara@wrenmoor.example    agent, Accounts
  wim@post.example         customer (sign in at the help centre)

make stop ends it, make reset throws its data away. Log: $run/log
END
