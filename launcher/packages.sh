# What must be on the machine, by the names of Debian's packages.

has() { command -v "$1" >/dev/null 2>&1 || [ -x "/usr/sbin/$1" ]; }

has_postgresql() { ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1 || has postgres; }

java_major() { java -version 2>&1 | sed -n 's/.*version "\([0-9]*\).*/\1/p' | head -1; }

missing_packages() { # run | demo | test | drill
  has java && has javac || echo openjdk-17-jdk-headless
  has mvn || echo maven
  has mariadbd || echo mariadb-server-core
  has my_print_defaults || echo mariadb-client-core
  [ "$1" = run ] || has mosquitto || echo mosquitto
  [ "$1" != drill ] || has faketime || echo faketime
  if [ "$1" = test ]; then
    # together, so that all three are of one version
    has chromium-headless-shell && has chromedriver || echo chromium chromium-driver chromium-headless-shell
    has_postgresql || echo postgresql
  fi
}

ensure_packages() {
  local missing as_root="" log
  missing=$(missing_packages "$1" | tr '\n' ' ')
  if [ -n "$missing" ]; then
    mkdir -p "$LOGS" 2>/dev/null || fail "the folder $VAR cannot be written." "Give this user the right to write there, or set DACHSHUND_VAR to another folder."
    log="$LOGS/packages.log"
    has apt-get || fail "these packages are missing: $missing" "They are named as in Debian 12; install their like on this system and call again."
    if [ "$(id -u)" != 0 ]; then
      has sudo || fail "these Debian packages are missing and need root to install: $missing" "Run as root: apt-get install $missing"
      as_root="sudo"
    fi
    step "Installing $missing"
    $as_root env DEBIAN_FRONTEND=noninteractive apt-get update -q >"$log" 2>&1
    $as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends $missing >>"$log" 2>&1 \
      || { tail -5 "$log" >&2; fail "Debian's packages did not install: $missing" "The whole output is in $log." "Is the network there, and the disk not full?"; }
    done_step
  fi
  local major
  major=$(java_major)
  [ "${major:-0}" -ge 17 ] || fail "the java on the PATH is version ${major:-unknown}; Java 17 or newer is needed." "Install openjdk-17-jdk-headless and put it first on the PATH (java -version shows which one is used)."
}
