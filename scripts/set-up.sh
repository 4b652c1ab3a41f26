# What both ./start and ./test need before they can begin. Sourced by them, from the project's root.

need_node() {
	command -v node >/dev/null || fail "Open Choir needs Node.js 20.19 or newer. Install it and start again."
	node -e 'const [major, minor] = process.versions.node.split(".").map(Number); process.exit(major > 20 || (major === 20 && minor >= 19) ? 0 : 1)' ||
		fail "Open Choir needs Node.js 20.19 or newer; this is $(node --version)."
}

need_packages() {
	# npm writes node_modules/.package-lock.json last: it tells that an install was finished, and of what.
	if [ ! -f node_modules/.package-lock.json ] || [ package-lock.json -nt node_modules/.package-lock.json ]; then
		echo "Installing npm packages…" >&2
		npm ci --no-audit --no-fund --loglevel=error >&2
		touch node_modules/.package-lock.json
	fi
}

# Installs what is missing of the list's parts that are named: start, test, demo (scripts/outside-programs.json).
need_programs() {
	local missing=() program package
	while IFS=$'\t' read -r program package; do
		case "$program" in
			/*) [ -e "$program" ] || missing+=("$package") ;;
			*) command -v "$program" >/dev/null || missing+=("$package") ;;
		esac
	done < <(listed_programs "$@")
	[ ${#missing[@]} -gt 0 ] || return 0
	mapfile -t missing < <(printf '%s\n' "${missing[@]}" | sort -u)
	if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
		echo "Installing ${missing[*]}…" >&2
		{ apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}"; } >/dev/null ||
			fail "Could not install ${missing[*]}. Install it by hand and start again."
	else
		fail "Missing: ${missing[*]}. On Debian: sudo apt-get install ${missing[*]}. Then start again."
	fi
}

# One line a program: its command or path, a tab, its Debian package.
listed_programs() {
	node -e '
		const listed = JSON.parse(require("fs").readFileSync("scripts/outside-programs.json", "utf8"));
		for (const part of process.argv.slice(1)) for (const line of Object.entries(listed[part])) console.log(line.join("\t"));
	' "$@"
}

need_build() {
	local stamp=build/.built
	if [ ! -f "$stamp" ] || [ -n "$(find src cli demo scripts static package-lock.json svelte.config.js vite.config.ts vite.node.config.ts -newer "$stamp" -not -path 'demo/media/*' -print -quit)" ]; then
		echo "Building…" >&2
		local log
		log=$(mktemp)
		npm run --silent build >"$log" 2>&1 || { cat "$log" >&2; fail "The build failed; see above."; }
		rm -f "$log"
		touch "$stamp"
	fi
}
