#!/usr/bin/env bash
# Runs Lighthouse with mobile settings on three pages of a running help centre, and
# prints its scores. Lighthouse comes from npm, to a directory of its own.
#   bench/lighthouse.sh [http://127.0.0.1:8080]
set -euo pipefail
base=${1:-http://127.0.0.1:8080}
dir=${LIGHTHOUSE_DIR:-.run/lighthouse}
mkdir -p "$dir"
[ -x "$dir/node_modules/.bin/lighthouse" ] || PUPPETEER_SKIP_DOWNLOAD=1 npm install --prefix "$dir" --no-audit --no-fund --loglevel=error lighthouse@12
for path in /help /help/articles/A-0001/give-a-meter-reading "/help/search?q=why+is+my+bill+estimated"; do
	CHROME_PATH=/usr/bin/chromium "$dir/node_modules/.bin/lighthouse" "$base$path" --quiet --output=json --output-path="$dir/report.json" \
		--chrome-flags="--headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-component-update --disable-sync"
	node -e '
		const r = JSON.parse(require("fs").readFileSync(process.argv[1], "utf8"))
		const score = (c) => String(Math.round(100 * r.categories[c].score)).padStart(4)
		console.log("performance" + score("performance"), "accessibility" + score("accessibility"), "best practices" + score("best-practices"), "SEO" + score("seo"),
			" bytes " + r.audits["total-byte-weight"].numericValue, " LCP " + Math.round(r.audits["largest-contentful-paint"].numericValue) + " ms", process.argv[2])
		for (const a of Object.values(r.audits)) if (a.score !== null && a.score < 0.9 && !["informative", "notApplicable", "manual"].includes(a.scoreDisplayMode)) console.log("   ", a.id, a.score, a.displayValue ?? "")
	' "$dir/report.json" "$path"
done
