# Drills: what the product promises, tried on this machine. Each says what it counted and fails when that is not as promised.

drill() { # NAME [OPTIONS]
  case "${1:-}" in
    bare) drill_bare "${2:-all}" ;;
    all) shift; drill_all "$@" ;;
    simulator|kill|database|tables|full|clock|losses|backup|transaction|business)
      ensure_packages drill && build_if_changed
      run_drill "$@" ;;
    *) usage; fail "There is no drill \"${1:-}\"." "There are: simulator, kill, database, tables, full, clock, losses, backup, transaction, business, all, bare." ;;
  esac
}

run_drill() {
  java -Xmx1g "-Dbench.application=$VAR/app/web/dachshund-web-0.1.0-run.jar" -jar bench/target/dachshund-bench-0.1.0-run.jar drill "$@"
}

# Every drill but "bare". Two run beside the others: the long one, since each has a database, a plant and ports of its own, and
# the simulator, which needs no clock and takes what the others leave of the processor.
drill_all() {
  local from=$SECONDS wrong="" name
  local -A beside=()
  ensure_packages drill && build_if_changed
  run_drill kill "$@" >"$LOGS/drill-kill.log" 2>&1 &
  beside[kill]=$!
  (renice -n 19 -p "$BASHPID" >/dev/null; run_drill simulator "$@") >"$LOGS/drill-simulator.log" 2>&1 &
  beside[simulator]=$!
  for name in database tables full clock losses backup transaction business; do
    run_drill "$name" || wrong="$wrong $name"
  done
  for name in simulator kill; do
    wait "${beside[$name]}" || wrong="$wrong $name"
    cat "$LOGS/drill-$name.log"
  done
  [ -z "$wrong" ] || fail "not as promised:$wrong ($((SECONDS - from)) s)." "Each of them can be run by itself."
  note "All drills are as promised ($((SECONDS - from)) s)."
}

# The README's two commands in a bare Debian 12 tree, as an ordinary user with sudo and without a locale. What this machine
# needs to reach Debian's packages and Maven's libraries (sources, proxies, certificates) is carried in, and nothing else.
drill_bare() { # demo | test | all
  local as_root="" tree="$VAR/bare" from
  case "$1" in demo|test|all) ;; *) fail "\"$1\" is no part of this drill." "Parts: demo, test; all without one." ;; esac
  from=$SECONDS
  if [ "$(id -u)" != 0 ]; then
    has sudo || fail "making a bare tree needs root." "Run as root, or install sudo."
    as_root="sudo -E"
  fi
  has git || fail "git is missing; the drill takes what is committed."
  if ! has debootstrap; then
    step "Installing debootstrap"
    $as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends debootstrap >/dev/null 2>&1 \
      || fail "Debian's package did not install: debootstrap"
    done_step
  fi
  mkdir -p "$LOGS"
  $as_root rm -rf --one-file-system "$tree"
  mkdir -p "$tree"
  # Mounts are this drill's own: they are gone with its last process.
  $as_root unshare --mount --propagation private bash "$HOME_DIR/launcher/drill-bare.sh" \
    "$HOME_DIR" "$tree" "$1" "${DACHSHUND_PORT:-8080}" "$LOGS" || fail "the drill \"bare\" failed." "The tree is left in $tree, what it said in $LOGS/bare-*.log."
  $as_root rm -rf --one-file-system "$tree"
  note "The drill \"bare\" is as promised ($((SECONDS - from)) s)."
}
