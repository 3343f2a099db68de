#!/bin/sh
# Make this clone ready to run: Debian's packages, the virtual environment, the front end. What is ready is left alone,
# so that a second run takes a moment. Says what it does.
set -eu
cd "$(dirname "$0")/.."

PACKAGES="postgresql python3-venv nodejs npm chromium frr frr-pythontools ifupdown2 lldpd iproute2 nftables chrony rsyslog
openssh-server openssh-client iputils-ping procps util-linux libyang2-tools libyuma-base bind9-utils
user-mode-linux kmod sudo snmpd snmp python3-mako tcpdump isc-dhcp-relay isc-dhcp-client dnsmasq-base
kea-dhcp4-server kea-dhcp6-server xorriso"
PROGRAMS="/usr/lib/postgresql/*/bin/postgres /usr/bin/chromium /usr/lib/frr/zebra /usr/sbin/ifup /usr/sbin/lldpd
/usr/sbin/nft /usr/bin/yanglint /usr/share/yuma/modules/ietf /usr/sbin/chronyd /usr/sbin/rsyslogd /usr/sbin/sshd /usr/bin/setpriv /usr/bin/named-checkzone
/usr/bin/linux.uml /usr/bin/kmod /usr/sbin/visudo /usr/sbin/snmpd /usr/bin/snmpget /usr/lib/python3/dist-packages/mako
/usr/bin/tcpdump /usr/sbin/dhcrelay /usr/sbin/dhclient /usr/sbin/dnsmasq
/usr/sbin/kea-dhcp4 /usr/sbin/kea-dhcp6 /usr/bin/xorriso"

missing() {
	for program in $PROGRAMS; do
		[ -e "$program" ] || { echo "$program"; return; }
	done
	for program in ip ping sysctl ssh-keygen vtysh node npm python3; do
		command -v "$program" > /dev/null || [ -e "/usr/sbin/$program" ] || { echo "$program"; return; }
	done
	python3 -c 'import sys, venv, ensurepip; sys.exit(sys.version_info < (3, 11))' 2> /dev/null || echo "Python 3.11 with venv"
}

install_packages() {
	lacking=$(missing)
	[ -n "$lacking" ] || return 0
	if ! command -v apt-get > /dev/null; then
		echo "Barrio needs, beside Python 3.11 and Node.js 20.19 or newer, these Debian packages or the like of them:" >&2
		echo "$PACKAGES" >&2
		echo "Missing here: $lacking. Install them, then run this again." >&2
		exit 1
	fi
	root=
	[ "$(id -u)" = 0 ] || root=sudo
	echo "Installing Debian packages (missing: $lacking)"
	wanted=$PACKAGES
	# A Node.js that did not come from Debian stays as it is.
	if command -v node > /dev/null && command -v npm > /dev/null; then
		wanted=$(echo "$PACKAGES" | sed 's/ nodejs npm//')
	fi
	$root apt-get update -qq
	# A policy that starts no services: Barrio starts what it needs itself.
	# shellcheck disable=SC2086
	$root env DEBIAN_FRONTEND=noninteractive RUNLEVEL=1 apt-get install -y -qq --no-install-recommends $wanted > /dev/null
}

# Run a step when the files it depends on have changed since it last succeeded.
when_changed() {
	stamp=.barrio/$1
	shift
	files=$1
	shift
	# shellcheck disable=SC2086
	sum=$(cat $files | sha256sum | cut -d' ' -f1)
	[ -f "$stamp" ] && [ "$(cat "$stamp")" = "$sum" ] && return 0
	"$@"
	echo "$sum" > "$stamp"
}

# Say what is done; show what it printed only when it fails.
step() {
	echo "$1"
	shift
	"$@" > .barrio/prepare.log 2>&1 || { cat .barrio/prepare.log >&2; exit 1; }
}

make_environment() {
	step "Making the Python environment in .venv" python3 -m venv --clear .venv
	step "Installing Python packages" .venv/bin/pip install --disable-pip-version-check -r requirements.lock -r requirements-dev.lock
	step "Installing Barrio itself" .venv/bin/pip install --disable-pip-version-check --no-deps --no-build-isolation --editable .
}

install_web() {
	step "Installing the front end's packages" npm --prefix web ci --no-audit --no-fund
}

build_web() {
	step "Writing the client for the front end" scripts/openapi.sh
	step "Building the front end" npm --prefix web run --silent build
}

translate() {
	.venv/bin/python -m compileall -q -j 2 barrio tests
}

mkdir -p .barrio
install_packages
[ -x .venv/bin/python ] || rm -f .barrio/python
[ -d web/node_modules ] || rm -f .barrio/npm
[ -f web/dist/index.html ] || rm -f .barrio/web
[ -d barrio/__pycache__ ] || rm -f .barrio/translated
when_changed python "requirements.lock requirements-dev.lock pyproject.toml" make_environment
when_changed npm "web/package-lock.json" install_web
when_changed web "$(git ls-files -co --exclude-standard web barrio | tr '\n' ' ')" build_web
# Every start is quicker for it, also where Python is told to keep nothing of what it translated.
when_changed translated "$(git ls-files -co --exclude-standard barrio tests | grep '\.py$' | tr '\n' ' ')" translate
