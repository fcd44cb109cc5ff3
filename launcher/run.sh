# Starts and stops the whole: MariaDB, the simulated plant (demo only), the application.

wait_for() { # NAME FILE SECONDS
  for _ in $(seq $(($3 * 5))); do
    [ -f "$2" ] && return 0
    [ -n "$(pid_of "$1")" ] || return 1
    sleep 0.2
  done
  return 1
}

start_database() { # demo | plain
  local more=""
  [ "${1:-}" = demo ] && more=demo
  DB_PORT=$(choose_port database "${DACHSHUND_DB_PORT:-3306}") || exit 1
  step "Starting MariaDB on 127.0.0.1:$DB_PORT"
  launcher/mariadb init "$VAR/mariadb" || fail "MariaDB's data folder could not be made." "See $VAR/mariadb/init.log."
  launch database launcher/mariadb run "$VAR/mariadb" "$DB_PORT" $more
  for _ in $(seq 300); do
    port_taken "$DB_PORT" && { done_step; return 0; }
    [ -n "$(pid_of database)" ] || break
    sleep 0.1
  done
  tail -5 "$VAR/mariadb/server.log" >&2
  [ -f "$VAR/live-definitions.sealed" ] || fail "MariaDB did not start." "Its own words are in $VAR/mariadb/server.log."
  printf 'did not start\n'
  note "Its own words are in $VAR/mariadb/server.log. The application starts all the same and records from the last release."
}

start_broker() {
  BROKER_PORT=$(choose_port broker 1884) || exit 1
  launch broker launcher/mosquitto "$VAR/broker" "$BROKER_PORT"
}

start_plant() {
  OPCUA_PORT=$(choose_port opcua 4840) || exit 1
  MODBUS_PORT=$(choose_port modbus 1502) || exit 1
  SMTP_PORT=$(choose_port smtp 2525) || exit 1
  IMAP_PORT=$(choose_port imap 2143) || exit 1
  rm -f "$RUN/plant.ready"
  # The first time the plant has a past: what it did in the week before.
  local past=()
  [ -f "$VAR/live-definitions.sealed" ] || past=(--history="$RUN/plant-past.csv")
  launch plant java -Xmx256m -Dstandins.identity="$VAR/plant-identity.p12" -jar standins/target/dachshund-standins-0.1.0-run.jar "${past[@]}" \
    --opcua-port="$OPCUA_PORT" --modbus-port="$MODBUS_PORT" --broker-port="$BROKER_PORT" --database="127.0.0.1:$DB_PORT" --smtp-port="$SMTP_PORT" --imap-port="$IMAP_PORT" --ready-file="$RUN/plant.ready"
}

await_plant() {
  step "Starting the simulated plant"
  wait_for plant "$RUN/plant.ready" 60 || { tail -5 "$LOGS/plant.log" >&2; fail "the simulated plant did not start." "See $LOGS/plant.log."; }
  done_step "opc.tcp://127.0.0.1:$OPCUA_PORT"
}

start_web() { # demo | plain
  local wanted="${DACHSHUND_PORT:-8080}"
  step "Starting the application"
  rm -f "$RUN/web.ready" "$RUN/first-sign-in"
  local extra=()
  [ "$1" = demo ] && extra=(--dachshund.demo=true --dachshund.demo-opcua-port="$OPCUA_PORT" --dachshund.demo-modbus-port="$MODBUS_PORT" --dachshund.demo-broker-port="$BROKER_PORT" --dachshund.demo-history="$RUN/plant-past.csv" --dachshund.demo-mail.smtp-port="$SMTP_PORT" --dachshund.demo-mail.imap-port="$IMAP_PORT")
  local scheme=http
  if [ -n "${DACHSHUND_CERTIFICATE:-}" ]; then
    scheme=https
    extra+=(--dachshund.pages.certificate="$(from_there "$DACHSHUND_CERTIFICATE")" --dachshund.pages.key="$([ -n "${DACHSHUND_KEY:-}" ] && from_there "$DACHSHUND_KEY")")
  fi
  [ -n "${DACHSHUND_ADDRESS:-}" ] && extra+=(--server.address="$DACHSHUND_ADDRESS")
  [ -n "${FROM_SOURCES:-}" ] && extra+=(--spring.thymeleaf.cache=false --spring.thymeleaf.prefix="file:$HOME_DIR/web/src/main/resources/templates/"
    --spring.web.resources.static-locations="file:$HOME_DIR/web/src/main/resources/static/" --spring.web.resources.chain.cache=false
    --spring.web.resources.cache.cachecontrol.max-age=0 --spring.web.resources.cache.cachecontrol.no-cache=true)
  launch web java -Xmx1g $(web_program) --server.port="$wanted" \
    --dachshund.var="$VAR" --dachshund.database.port="$DB_PORT" --dachshund.database.password-file="$VAR/mariadb/own.password" --dachshund.ready-file="$RUN/web.ready" "${extra[@]}"
  wait_for web "$RUN/web.ready" 120 || { grep -E 'ERROR|APPLICATION FAILED|Exception' "$LOGS/web.log" | tail -5 >&2; fail "the application did not start." "See $LOGS/web.log."; }
  done_step
  PAGES="$scheme://localhost:$wanted/"
}

stop_all() {
  stop_process web 20
  stop_process plant 10
  stop_process broker 10
  stop_process database 60
}

run_application() { # demo | plain
  # What lies under var is nobody else's to read.
  { mkdir -p "$RUN" "$LOGS" && chmod 700 "$VAR"; } 2>/dev/null || fail "the folder $VAR cannot be written." "Give this user the right to write there, or set DACHSHUND_VAR to another folder."
  [ -n "$(pid_of launcher)" ] && fail "Dachshund already runs here (pid $(pid_of launcher))." "Stop it with ./dachshund stop"
  stop_all   # what a killed launcher left behind
  local wanted="${DACHSHUND_PORT:-8080}" command=start
  [ "$1" = demo ] && command=demo
  port_taken "$wanted" && fail "port $wanted is taken$(who_listens "$wanted")." "Stop that program, or choose another port: DACHSHUND_PORT=8090 ./dachshund $command"
  remember launcher $$
  printf 'Dachshund\n'
  if [ "$1" = demo ]; then ensure_packages demo; else ensure_packages run; fi
  build_if_changed
  rm -f "$RUN"/*.hold
  trap 'printf "\nStopping ...\n"; stop_all; rm -f "$RUN/launcher.pid"; printf "Stopped.\n"; exit 0' INT TERM HUP
  trap 'stop_all; rm -f "$RUN/launcher.pid"' EXIT
  local from=$SECONDS
  start_database "$1"
  [ "$1" = demo ] && { start_broker; start_plant; }
  # The first time the demo's content is made from the plant; later the application need not wait for it.
  [ "$1" = demo ] && [ ! -f "$VAR/live-definitions.sealed" ] && await_plant
  start_web "$1"
  [ "$1" = demo ] && [ ! -f "$RUN/plant.ready" ] && await_plant
  printf '\nReady after %d s: %s\n' $((SECONDS - from)) "$PAGES"
  if [ "$1" = demo ]; then
    printf '  sign in as    engineer / engineer-demo   (designs and releases)\n'
    printf '                viewer / viewer-demo       (looks)\n'
    printf '                admin / admin-demo         (people and writing to the plant)\n'
    printf '  plant         opc.tcp://127.0.0.1:%s, Modbus 127.0.0.1:%s, MQTT 127.0.0.1:%s\n' "$OPCUA_PORT" "$MODBUS_PORT" "$BROKER_PORT"
  fi
  if [ -f "$RUN/first-sign-in" ]; then
    printf '  first sign-in %s\n' "$(cat "$RUN/first-sign-in")"
    rm -f "$RUN/first-sign-in"
  fi
  printf '  database      127.0.0.1:%s\n  logs          %s\n\nCtrl-C or ./dachshund stop ends it.\n' "$DB_PORT" "$LOGS"
  watch_processes "$1"
}

# Stays until stopped. A part that ends by itself is started again, and that is said.
watch_processes() {
  while true; do
    sleep 1 & wait $!
    for name in database broker plant web; do
      case "$name" in broker|plant) [ "$1" = demo ] || continue ;; esac
      [ -n "$(pid_of "$name")" ] && continue
      [ -f "$RUN/$name.hold" ] && continue
      printf '%s: %s ended by itself and is started again.\n' "$(date +%H:%M:%S)" "$name"
      rm -f "$RUN/$name.pid"
      ( case "$name" in database) start_database "$1" ;; broker) start_broker ;; plant) start_plant; await_plant ;; web) start_web "$1" ;; esac ) || true
    done
  done
}

# Ends a part as a power cut would, and keeps it down until it is started again.
plug() { # database | broker | plant   kill | start
  local pid
  [ -n "$(pid_of launcher)" ] || fail "Dachshund does not run here." "Start it with ./dachshund demo"
  case "$2" in
    kill)
      touch "$RUN/$1.hold"
      pid=$(pid_of "$1") && kill -KILL "$pid" && note "The $1 (pid $pid) is killed. ./dachshund $1 start brings it back." ;;
    start)
      rm -f "$RUN/$1.hold"
      note "The $1 starts." ;;
    *) fail "\"$1\" takes kill or start." ;;
  esac
}

stop_application() {
  local pid
  if pid=$(pid_of launcher); then
    kill -TERM "$pid"
    for _ in $(seq 900); do [ -n "$(pid_of launcher)" ] || break; sleep 0.1; done
    note "Stopped."
  else
    stop_all
    rm -f "$RUN/launcher.pid"
    note "Nothing was running."
  fi
}
