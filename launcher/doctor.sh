# What is installed, running and listening, and how full the disk is.

doctor() {
  local name pid port file
  printf 'Installed\n'
  printf '  %-12s %s\n' java "$(has java && java -version 2>&1 | head -1 || echo 'missing: openjdk-17-jdk-headless')"
  printf '  %-12s %s\n' maven "$(has mvn && mvn -v 2>/dev/null | head -1 | sed 's/\x1b\[[0-9;]*m//g' || echo 'missing: maven')"
  printf '  %-12s %s\n' mariadb "$(has mariadbd && PATH="$PATH:/usr/sbin" mariadbd --version || echo 'missing: mariadb-server-core')"
  printf '  %-12s %s\n' mosquitto "$(has mosquitto && PATH="$PATH:/usr/sbin" mosquitto -h | head -1 || echo 'missing: mosquitto (the demo and the tests need it)')"
  printf '  %-12s %s\n' postgresql "$(has_postgresql && { ls -d /usr/lib/postgresql/* 2>/dev/null | tail -1 || echo there; } || echo 'missing: postgresql (only the tests and benchmarks need it)')"
  printf '  %-12s %s\n' chromium "$(has chromium-headless-shell && chromium-headless-shell --version 2>/dev/null || echo 'missing: chromium-headless-shell (only the tests need it)')"
  printf '  %-12s %s\n' chromedriver "$(has chromedriver && chromedriver --version | cut -d'(' -f1 || echo 'missing: chromium-driver (only the tests need it)')"
  printf 'Running\n'
  for name in launcher database broker plant web; do
    if pid=$(pid_of "$name"); then printf '  %-12s pid %s, %s MB\n' "$name" "$pid" "$(awk '/VmRSS/{print int($2/1024)}' "/proc/$pid/status")"
    else printf '  %-12s not running\n' "$name"; fi
  done
  printf 'Listening\n'
  for file in "$VAR"/ports/*; do
    [ -f "$file" ] || continue
    port=$(cat "$file")
    printf '  %-12s 127.0.0.1:%s %s\n' "$(basename "$file")" "$port" "$(port_taken "$port" && echo "answers$(who_listens "$port")" || echo 'nothing answers')"
  done
  port="${DACHSHUND_PORT:-8080}"
  printf '  %-12s 127.0.0.1:%s %s\n' pages "$port" "$(port_taken "$port" && echo "answers$(who_listens "$port")" || echo 'nothing answers')"
  printf 'Disk\n'
  mkdir -p "$VAR"
  df -Ph "$VAR" | awk -v v="$VAR" 'NR==2{printf "  %-12s %s of %s used, %s left (%s)\n", "var", $3, $2, $4, v}'
  for name in mariadb journal logs; do
    [ -d "$VAR/$name" ] && printf '  %-12s %s\n' "$name" "$(du -sh "$VAR/$name" | cut -f1)"
  done
  return 0
}
