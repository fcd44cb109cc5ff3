# Builds when a source file changed; runs tests and benchmarks.

source_stamp() {
  find pom.xml core engine links standins office web bench -name target -prune -o -type f \( -path '*/src/*' -o -name pom.xml \) -printf '%p %s %T@\n' | sort | cksum
}

build_if_changed() {
  mkdir -p "$LOGS" "$RUN" || fail "the folder $VAR cannot be written." "Give this user the right to write there, or set DACHSHUND_VAR."
  local free_mb stamp
  free_mb=$(df -Pm "$VAR" | awk 'NR==2{print $4}')
  [ "$free_mb" -ge 1024 ] || fail "only $free_mb MB of disk are left under $VAR; a build and the journal need at least 1,024 MB." "Free some space or set DACHSHUND_VAR to a larger disk."
  stamp=$(source_stamp)
  if [ -d "$VAR/app/web" ] && [ -f standins/target/dachshund-standins-0.1.0-run.jar ] && [ -f bench/target/dachshund-bench-0.1.0-run.jar ] \
     && [ "$(cat "$VAR/build.stamp" 2>/dev/null)" = "$stamp" ]; then
    return 0
  fi
  step "Building (the first time fetches libraries)"
  mvn -B -ntp -q -Dmaven.test.skip=true -Dspotless.check.skip -Dspotbugs.skip package >"$LOGS/build.log" 2>&1 \
    || { tail -20 "$LOGS/build.log" >&2; fail "the build failed." "The whole output is in $LOGS/build.log."; }
  unpack_web
  echo "$stamp" > "$VAR/build.stamp"
  done_step
}

# A jar with its libraries beside it, not inside: starts sooner, and the JVM can keep a class archive of it.
unpack_web() {
  rm -rf "$VAR/app"
  java -Djarmode=tools -jar web/target/dachshund-web-0.1.0-run.jar extract --destination "$VAR/app/web" >>"$LOGS/build.log" 2>&1 \
    || fail "the application could not be unpacked to $VAR/app." "See $LOGS/build.log. Is the disk full?"
}

# Prints the java arguments that start the application: with its class archive, or writing one when it ends.
web_program() {
  local archive="$VAR/app/web.jsa"
  if [ -s "$archive" ]; then printf -- '-XX:SharedArchiveFile=%s ' "$archive"; else printf -- '-XX:ArchiveClassesAtExit=%s ' "$archive"; fi
  printf -- '-Xshare:auto -Xlog:cds=off -Xlog:cds+dynamic=off -jar %s' "$VAR/app/web/dachshund-web-0.1.0-run.jar"
}

run_tests() {
  mkdir -p "$LOGS"
  # Two modules at once where neither needs the other: much of a test is waiting.
  mvn -B -ntp -T 2 test "$@"
}

run_bench() {
  [ $# -ge 1 ] || fail "name a benchmark." "There are: ingest, drain, recorders, fast, latency, memory, open, csv, tags, change, modbus, people, definitions, aggregate, archive, plot, export, query, trend, transaction, ledger"
  java -Xmx2g "-Dbench.application=$VAR/app/web/dachshund-web-0.1.0-run.jar" -jar bench/target/dachshund-bench-0.1.0-run.jar "$@"
}
