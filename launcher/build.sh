# Builds when a source file changed; runs tests and benchmarks.

source_stamp() {
  find pom.xml core engine links standins web bench -name target -prune -o -type f \( -path '*/src/*' -o -name pom.xml \) -printf '%p %s %T@\n' | sort | cksum
}

build_if_changed() {
  mkdir -p "$LOGS" "$RUN" || fail "the folder $VAR cannot be written." "Give this user the right to write there, or set DACHSHUND_VAR."
  local free_mb stamp
  free_mb=$(df -Pm "$VAR" | awk 'NR==2{print $4}')
  [ "$free_mb" -ge 1024 ] || fail "only $free_mb MB of disk are left under $VAR; a build and the journal need at least 1,024 MB." "Free some space or set DACHSHUND_VAR to a larger disk."
  stamp=$(source_stamp)
  if [ -f web/target/dachshund-web-0.1.0-run.jar ] && [ -f standins/target/dachshund-standins-0.1.0-run.jar ] \
     && [ "$(cat "$VAR/build.stamp" 2>/dev/null)" = "$stamp" ]; then
    return 0
  fi
  step "Building (the first time fetches libraries)"
  mvn -B -ntp -q -Dmaven.test.skip=true package >"$LOGS/build.log" 2>&1 \
    || { tail -20 "$LOGS/build.log" >&2; fail "the build failed." "The whole output is in $LOGS/build.log."; }
  echo "$stamp" > "$VAR/build.stamp"
  done_step
}

run_tests() {
  mkdir -p "$LOGS"
  mvn -B -ntp test "$@"
}

run_bench() {
  [ $# -ge 1 ] || fail "name a benchmark." "There is one so far: ingest"
  java -Xmx2g -jar bench/target/dachshund-bench-0.1.0-run.jar "$@"
}
