#!/usr/bin/env bash
# Runs everything: formatting, lint, types, Go tests, browser tests. It starts a
# PostgreSQL of its own for them, and throws it away.
set -uo pipefail
cd "$(dirname "$0")/.."
export CI=${CI:-true}
passed=0
failed=0
results=.run/test
rm -rf "$results"
mkdir -p "$results"

note() { # NAME STATUS
	if [ "$2" = 0 ]; then
		passed=$((passed + 1))
	else
		failed=$((failed + 1))
		echo "FAILED: $1"
	fi
}
check() { # NAME COMMAND...
	local name=$1
	shift
	echo "— $name"
	"$@"
	note "$name" $?
}
install_chromium() {
	[ -x /usr/bin/chromium ] && return
	echo "Installing Chromium from Debian…"
	local sudo=""
	[ "$(id -u)" = 0 ] || sudo="sudo"
	$sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends chromium >/dev/null
}
# Open documentation that bringing articles in is tested with, read where Debian puts it.
install_python_doc() {
	[ -d /usr/share/doc/python3.11/html/faq ] && return
	echo "Installing the Python documentation from Debian…"
	local sudo=""
	[ "$(id -u)" = 0 ] || sudo="sudo"
	$sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends python3.11-doc >/dev/null
}
# What the race detector is built with.
install_gcc() {
	command -v gcc >/dev/null && return
	echo "Installing gcc from Debian…"
	local sudo=""
	[ "$(id -u)" = 0 ] || sudo="sudo"
	$sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends gcc libc6-dev >/dev/null
}
# What sitemaps and feeds are compared with their schemas by.
install_xmllint() {
	command -v xmllint >/dev/null && return
	echo "Installing xmllint from Debian…"
	local sudo=""
	[ "$(id -u)" = 0 ] || sudo="sudo"
	$sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends libxml2-utils >/dev/null
}
# What calendars and their rules are compared with.
install_python_calendars() {
	/usr/bin/python3 -c 'import dateutil, icalendar' 2>/dev/null && return
	echo "Installing python3-dateutil and python3-icalendar from Debian…"
	local sudo=""
	[ "$(id -u)" = 0 ] || sudo="sudo"
	$sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends python3-dateutil python3-icalendar >/dev/null
}
# gofmt, and no line over 120 columns that can be broken.
gofmt_clean() {
	local out
	out=$(go tool golines --max-len=120 --base-formatter=gofmt --no-reformat-tags --ignore-generated -l $(git ls-files '*.go'))
	[ -z "$out" ] || { echo "$out"; return 1; }
}
# go.mod as it is tidied, and nothing that nothing reaches.
tidy() {
	go mod tidy -diff
}
no_dead_code() {
	local out
	out=$(go tool deadcode -test ./...) || return 1
	[ -z "$out" ] || { echo "$out"; return 1; }
}
api_current() {
	go run ./cmd/hermeneus openapi >"$results/openapi.json" || return 1
	node -e '
		const [a, b] = process.argv.slice(1).map((f) => JSON.stringify(JSON.parse(require("fs").readFileSync(f, "utf8"))))
		if (a !== b) { console.log("The API changed: run make api"); process.exit(1) }
	' "$results/openapi.json" web/src/shared/api/openapi.json
}
# Packages that start goroutines, or that many call at once: tested with the race detector.
concurrent="./app/... ./store ./standin ./http ./core/search"
go_tests() {
	local status=0 rest
	rest=$(go list ./... | grep -vxF "$(go list $concurrent)")
	# shellcheck disable=SC2086
	go test -race -json -parallel 6 $concurrent >"$results/go.json" 2>"$results/go.err" || status=$?
	# shellcheck disable=SC2086
	go test -json -parallel 6 $rest >>"$results/go.json" 2>>"$results/go.err" || status=$?
	node scripts/go-report.mjs "$results/go.json" >"$results/go.txt"
	cat "$results/go.err"
	sed '$d' "$results/go.txt"
	read -r p f < <(tail -n 1 "$results/go.txt")
	passed=$((passed + p))
	failed=$((failed + f))
	if [ "$status" != 0 ] && [ "$f" = 0 ]; then note "go test" "$status"; fi
}
browser_tests() {
	rm -rf e2e/test-results
	(cd e2e && npx --no playwright test)
	local status=$?
	# A test that passes at its second try only is reported, and counts as failed.
	read -r p f < <(node -e '
		const r = JSON.parse(require("fs").readFileSync("e2e/test-results/report.json", "utf8")).stats
		console.log(r.expected, r.unexpected + r.flaky)
	' 2>/dev/null || echo "0 0")
	passed=$((passed + p))
	failed=$((failed + f))
	if [ "$status" != 0 ] && [ "$f" = 0 ]; then note "browser tests" "$status"; fi
	node scripts/browser-report.mjs e2e/test-results/report.json
}

trap 'scripts/postgres.sh remove .run/test-postgres' EXIT
scripts/postgres.sh remove .run/test-postgres
HERMENEUS_TEST_DATABASE=$(scripts/postgres.sh start .run/test-postgres fsync=off synchronous_commit=off full_page_writes=off) || { echo "0 passed, 1 failed"; exit 1; }
export HERMENEUS_TEST_DATABASE
install_chromium || note "installing Chromium" 1
install_python_doc || note "installing the Python documentation" 1
install_gcc || note "installing gcc" 1
install_xmllint || note "installing xmllint" 1
install_python_calendars || note "installing the Python calendars" 1

check "the binary is built" make -s build
check "Go is formatted" gofmt_clean
check "go.mod is tidy" tidy
check "go vet" go vet ./...
check "staticcheck" go tool staticcheck ./...
check "no Go code is dead" no_dead_code
check "the API's types are current" api_current
check "the front end is linted and formatted" npm run --silent lint -w web
check "no front end code is dead" npm run --silent dead -w web
check "the front end's types" npm run --silent types -w web
check "the browser tests' types" npx --no -- tsc -p e2e/tsconfig.json
echo "— Go tests"
go_tests
echo "— browser tests"
browser_tests

echo "$passed passed, $failed failed"
[ "$failed" = 0 ]
