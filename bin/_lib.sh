# Shared by bin/start and bin/test: what a fresh Debian machine lacks, and a PostgreSQL cluster of our own.
# Sourced, not run. Every refusal is one clear line on standard error.

ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd -P)
LOCAL="$ROOT/.local"
VENV="$ROOT/.venv"
# What root has stands outside the checkout: PostgreSQL and the server run as users of their own, who must reach it.
HOUSE="/var/lib/iron-compass/$(printf '%s' "$ROOT" | sha256sum | cut -c1-12)"
[ "$(id -u)" != 0 ] || VENV="$HOUSE-venv"
PY="$VENV/bin/python"
# A Python of root's own home could be run by root alone.
PYTHON=python3; [ "$(id -u)" != 0 ] || PYTHON=/usr/bin/python3
CLUSTER=pg   # bin/start's; that of --production is another
# What lays sheets of paper out (weasyprint) loads from Debian.
PAPER=(libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0)
# Chromium without a window: Debian's small build of it, or the whole one where that is installed already (Debian lets
# the two stand beside each other in one version only).
BROWSER=chromium-headless-shell
if command -v chromium >/dev/null && ! command -v "$BROWSER" >/dev/null; then BROWSER=chromium; fi
cd "$ROOT"
umask 077

say() { printf '%s\n' "$*"; }
die() { printf 'iron-compass: %s\n' "$*" >&2; exit 1; }

# What belongs to another user is not touched: one `sudo bin/start` would take a user's database away from them.
ours_only() {
  local path owner
  for path in "$LOCAL" "$ROOT/.venv"; do
    [ -e "$path" ] || continue
    owner=$(stat -c %U "$path")
    [ "$(stat -c %u "$path")" = "$(id -u)" ] || die "$path belongs to $owner; run this as $owner, or in a checkout of your own"
  done
  if [ -n "${SUDO_UID:-}" ] && [ "$(id -u)" = 0 ] && [ "$(stat -c %u "$ROOT")" != 0 ]; then
    die "this checkout belongs to $(stat -c %U "$ROOT"); run this without sudo (it asks for it where it installs packages)"
  fi
}
ours_only
mkdir -p "$LOCAL"

# take_mode ARGUMENT : whether it says --production. Its database is another than the demo's.
take_mode() { [ "${1:-}" = --production ] && CLUSTER=production; }

# a_port NAME VALUE : refuse what is no port.
a_port() {
  [[ "$2" =~ ^[0-9]{1,5}$ ]] && [ "$2" -ge 1 ] && [ "$2" -le 65535 ] || die "$1 is a port number from 1 to 65535, not \"$2\""
}

as_admin() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo -n "$@" || sudo "$@"; fi; }

# find_browser : tell Python where Chromium is.
find_browser() {
  IC_CHROMIUM=$(command -v "$BROWSER") || die "$BROWSER is installed but not on the PATH"
  export IC_CHROMIUM
}

# need_packages PACKAGE... : install Debian packages that are missing.
need_packages() {
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} = 0 ] && return 0
  command -v apt-get >/dev/null || die "these packages are missing and there is no apt-get here: ${missing[*]}"
  [ "$(id -u)" = 0 ] || command -v sudo >/dev/null || die "ask an administrator to run: apt-get install ${missing[*]}"
  say "Installing ${missing[*]} from Debian …"
  {
    as_admin apt-get update -q
    case " ${missing[*]} " in *" postgresql "*)
      # Debian makes and starts a cluster of its own with PostgreSQL; we make ours and want no other.
      as_admin env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends postgresql-common
      as_admin sed -i -E 's/^#?(create_main_cluster) .*/\1 = false/' /etc/postgresql-common/createcluster.conf ;;
    esac
    as_admin env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "${missing[@]}"
  } >"$LOCAL/apt.log" 2>&1 || die "could not install ${missing[*]}; the end of $LOCAL/apt.log says why"
}

# need_all PACKAGE... -- LOCKFILE... : Debian's packages and Python's, fetched side by side.
need_all() {
  local packages=() installing
  while [ "$1" != -- ]; do packages+=("$1"); shift; done
  shift
  command -v "$PYTHON" >/dev/null || need_packages python3
  "$PYTHON" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || die "Python 3.11 or newer is needed, this is $("$PYTHON" -V 2>&1)"
  "$PYTHON" -c 'import ensurepip, venv' 2>/dev/null || need_packages python3-venv
  need_packages "${packages[@]}" &
  installing=$!
  need_python "$@"
  wait "$installing" || exit 1
}

# need_python LOCKFILE... : a virtual environment that holds exactly what the lock files say.
need_python() {
  local stamp="$VENV/.installed" want
  if [ "$(id -u)" = 0 ]; then
    install -d -m 755 "${HOUSE%/*}"
    [ -L "$ROOT/.venv" ] || rm -rf "$ROOT/.venv"   # of an earlier release
    ln -sfn "$VENV" "$ROOT/.venv"
  fi
  want=$(cat "$@" | sha256sum | cut -d' ' -f1)
  # A superset is fine: bin/start does not throw out what bin/test has installed.
  [ -x "$PY" ] && [ -f "$stamp" ] && grep -qx "$want" "$stamp" && return 0
  say "Installing Python packages into .venv (once, a minute or two) …"
  "$PYTHON" -m venv "$VENV" || die "could not make a virtual environment in $VENV"
  local file args=()
  for file in "$@"; do args+=(-r "$file"); done
  # What is imported is compiled then; to compile all of it takes as long again as to install it.
  "$PY" -m pip install -q --no-compile --disable-pip-version-check --require-hashes "${args[@]}" >"$LOCAL/pip.log" 2>&1 \
    || die "could not install the Python packages; the end of .local/pip.log says why"
  if [ "$(id -u)" = 0 ]; then
    chmod -R go+rX "$VENV"
    # The user root serves as may write nothing there: it is done for it, while nothing else wants the machine.
    (umask 022; exec nice -n 19 "$PY" -m compileall -q "$VENV/lib") >/dev/null 2>&1 9>&- &
  fi
  # Each lock file with those before it is satisfied now: bin/start need not install again what bin/test has.
  for file in $(seq $#); do cat "${@:1:$file}" | sha256sum | cut -d' ' -f1 >>"$stamp"; done
}

port_is_free() { "$PY" - "$1" <<'PYTHON'
import socket, sys
with socket.socket() as s:
    s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        s.bind(("127.0.0.1", int(sys.argv[1])))
    except OSError:
        sys.exit(1)
PYTHON
}

# The cluster. PostgreSQL refuses to run as root, so root hands it to the postgres user, in a place that user can reach.
pg_bin() { ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -1; }
pg_run() { if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- "$@"); else "$@"; fi; }

cluster_folder() { if [ "$(id -u)" = 0 ]; then printf '%s' "$HOUSE-$1"; else printf '%s' "$LOCAL/$1"; fi; }

# start_cluster NAME PORT SETTING [postgres settings...] : sets PGDATA, IC_DATABASE_URL, and STARTED where we started it.
start_cluster() {
  local name=$1 port=$2 setting=$3; shift 3
  a_port "$setting" "$port"
  need_packages postgresql
  local bin; bin=$(pg_bin)
  [ -n "$bin" ] || die "PostgreSQL is installed but has no programs under /usr/lib/postgresql"
  PGDATA=$(cluster_folder "$name")
  [ "$(id -u)" != 0 ] || install -d -m 755 "${HOUSE%/*}"
  # The password stays with its cluster: a checkout that is removed and made anew finds both.
  local secret="$LOCAL/$name.password"
  if [ "$(id -u)" = 0 ]; then
    [ ! -f "$secret" ] || mv "$secret" "$PGDATA.password"
    secret="$PGDATA.password"
  fi
  # A cluster that has lost its password cannot be used; a test cluster is made anew, any other is kept beside.
  if [ -f "$PGDATA/PG_VERSION" ] && [ ! -f "$secret" ]; then
    pg_run "$bin/pg_ctl" -D "$PGDATA" -m fast -w stop >/dev/null 2>&1 || true
    if [ "$name" = pg-test ]; then rm -rf "$PGDATA"
    else
      say "The database in $PGDATA has lost its password: it is kept as $PGDATA.locked-out, and a new one is made."
      [ ! -e "$PGDATA.locked-out" ] || die "move $PGDATA.locked-out away first"
      mv "$PGDATA" "$PGDATA.locked-out" || die "could not move $PGDATA"
    fi
  fi
  if [ ! -f "$PGDATA/PG_VERSION" ]; then
    "$PY" -c 'import secrets; print(secrets.token_urlsafe(24), end="")' >"$secret"
    # Never over anything that is there: a half-made cluster is for a person to look at.
    [ -z "$(ls -A "$PGDATA" 2>/dev/null)" ] || die "$PGDATA holds something that is no database cluster; look at it, then remove it"
    if [ "$(id -u)" = 0 ]; then install -d -m 700 -o postgres -g postgres "$PGDATA"; else mkdir -p "$PGDATA"; fi
    local handed; handed=$(mktemp)
    cp "$secret" "$handed"; [ "$(id -u)" = 0 ] && chown postgres "$handed"
    pg_run "$bin/initdb" -D "$PGDATA" -U compass --pwfile="$handed" --auth=scram-sha-256 --encoding=UTF8 --locale=C.UTF-8 >"$LOCAL/$name-init.log" 2>&1 \
      || { rm -f "$handed"; die "could not make the database cluster; .local/$name-init.log says why"; }
    rm -f "$handed"
  fi
  [ -f "$secret" ] || die "the cluster's password file $secret is gone; remove $PGDATA to begin anew"
  export IC_DATABASE_URL="postgres://compass:$(cat "$secret")@127.0.0.1:$port/compass"
  local running=""
  if pg_run "$bin/pg_ctl" -D "$PGDATA" status >/dev/null 2>&1; then
    running=$(sed -n 4p "$PGDATA/postmaster.pid" 2>/dev/null || true)
    [ "$running" = "$port" ] && return 0   # ours already, left by a start that was killed
    pg_run "$bin/pg_ctl" -D "$PGDATA" -m fast -w stop >/dev/null 2>&1 || die "the cluster in $PGDATA runs on port $running and will not stop"
  fi
  port_is_free "$port" || die "port $port is in use; choose another for the database with $setting=NUMBER"
  local log="$PGDATA/server.log"
  # What it says is kept for a week, a file a day; what it says before it can is in the file named here.
  local week="-c logging_collector=on -c log_directory=log -c log_filename=%a.log -c log_truncate_on_rotation=on -c log_rotation_size=0"
  pg_run "$bin/pg_ctl" -D "$PGDATA" -l "$log" -w -t 30 -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories= $week $*" start >/dev/null 2>&1 9>&- \
    || die "the database did not start; $log says why"
  STARTED=1
  PGPASSWORD=$(cat "$secret") psql -h 127.0.0.1 -p "$port" -U compass -d postgres -tAc "select 1 from pg_database where datname = 'compass'" 2>/dev/null | grep -q 1 \
    || PGPASSWORD=$(cat "$secret") psql -h 127.0.0.1 -p "$port" -U compass -d postgres -qc 'create database compass' \
    || die "the database runs but refuses to talk; remove $PGDATA to begin anew"
}
# own_cluster : the cluster of bin/start, started if it is not running. IC_DATABASE_URL is its owner's.
own_cluster() {
  if [ -n "${IC_CLUSTER_URL:-}" ]; then   # tests bring their own
    IC_DATABASE_URL=$IC_CLUSTER_URL
    return 0
  fi
  local port="${IC_DB_PORT:-54600}" running
  PGDATA=$(cluster_folder "$CLUSTER")
  [ -f "$PGDATA/PG_VERSION" ] || die "there is no database yet: run bin/start once"
  running=$(sed -n 4p "$PGDATA/postmaster.pid" 2>/dev/null || true)
  start_cluster "$CLUSTER" "${running:-$port}" IC_DB_PORT
}
database_url() { printf '%s/%s' "${IC_DATABASE_URL%/*}" "$1"; }
sql() { psql "$(database_url "$1")" -v ON_ERROR_STOP=1 -qtAc "$2"; }
dump_database() { "$(pg_bin)/pg_dump" --format=custom --no-owner --no-privileges --dbname="$IC_DATABASE_URL"; }
# Only who started a cluster stops it.
stop_cluster() {
  local bin; bin=$(pg_bin)
  [ -n "$bin" ] && [ -n "${STARTED:-}" ] && pg_run "$bin/pg_ctl" -D "$PGDATA" -m fast -w stop >/dev/null 2>&1
  STARTED=""
}
cluster_lives() { pg_run "$(pg_bin)/pg_ctl" -D "$PGDATA" status >/dev/null 2>&1; }

# one_at_a_time NAME : hold .local/NAME.lock while this runs; children close it (9>&-), so that it goes with us.
one_at_a_time() { exec 9>"$LOCAL/$1.lock"; flock -n 9; }

need_secret() {
  [ -s "$LOCAL/secret-key" ] || "$PY" -c 'import secrets; print(secrets.token_urlsafe(50), end="")' >"$LOCAL/secret-key"
  IC_SECRET_KEY=$(cat "$LOCAL/secret-key"); export IC_SECRET_KEY
}
export OPENBLAS_NUM_THREADS=1 OMP_NUM_THREADS=1   # small matrices: threads of BLAS only wait for each other
export PYTHONUNBUFFERED=1 PYTHONUTF8=1
