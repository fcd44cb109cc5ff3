# Processes that the launcher starts: each has a pid file with its pid and start time, so that a pid that the
# system has given to another program since is never signalled.

born() { awk '{print $22}' "/proc/$1/stat" 2>/dev/null; }

remember() { echo "$2 $(born "$2")" > "$RUN/$1.pid"; }

pid_of() { # prints the pid if that very process is still there
  local pid born_then
  [ -f "$RUN/$1.pid" ] && read -r pid born_then < "$RUN/$1.pid" || return 1
  [ -n "${pid:-}" ] && [ "$(born "$pid")" = "$born_then" ] && echo "$pid"
}

# Starts a program in a session of its own: Ctrl-C reaches the launcher alone, which then stops the rest in order.
launch() { # NAME command...
  local name=$1; shift
  setsid "$@" >>"$LOGS/$name.log" 2>&1 </dev/null &
  remember "$name" $!
  disown $!   # its end is told by watch_processes, in our words
}

stop_process() { # NAME SECONDS
  local pid
  pid=$(pid_of "$1") || { rm -f "$RUN/$1.pid"; return 0; }
  kill -TERM "$pid" 2>/dev/null
  for _ in $(seq $(($2 * 10))); do
    [ -n "$(pid_of "$1")" ] || { rm -f "$RUN/$1.pid"; return 0; }
    sleep 0.1
  done
  note "$1 did not stop within $2 s and is ended."
  kill -KILL "$pid" 2>/dev/null
  rm -f "$RUN/$1.pid"
}

port_taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

who_listens() { # a word about the program on a port, if the system tells
  has ss || return 0
  ss -ltnpH "sport = :$1" 2>/dev/null | sed -n 's/.*users:(("\([^"]*\)",pid=\([0-9]*\).*/ by \1 (pid \2)/p' | head -1
}

# The port NAME had the last time; at the first start the wanted one or the next that is free. Chosen once, because
# definitions name it.
choose_port() { # NAME WANTED
  local file="$VAR/ports/$1" port
  mkdir -p "$VAR/ports"
  if [ -f "$file" ]; then
    port=$(cat "$file")
    port_taken "$port" && fail "port $port, which $1 uses here, is taken$(who_listens "$port")." "Stop that program, or remove $file to choose another port."
  else
    port=$2
    while port_taken "$port"; do port=$((port + 1)); done
    echo "$port" > "$file"
  fi
  echo "$port"
}
