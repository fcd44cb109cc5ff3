# Backup and restore. The passphrase that a backup is sealed with comes from DACHSHUND_PASSPHRASE, or is asked for.

passphrase() {
  [ -n "${DACHSHUND_PASSPHRASE:-}" ] && return 0
  [ -t 0 ] || fail "a backup is sealed with a passphrase, and none is in DACHSHUND_PASSPHRASE." "Set it, or call this from a terminal to be asked."
  read -rsp "Passphrase of the backup: " DACHSHUND_PASSPHRASE; echo
  if [ "$1" = backup ]; then
    local again
    read -rsp "Once more: " again; echo
    [ "$again" = "$DACHSHUND_PASSPHRASE" ] || fail "these are two different passphrases."
  fi
  export DACHSHUND_PASSPHRASE
}

# A file is meant as seen from where the command was called.
from_there() { case "$1" in /*) echo "$1" ;; *) echo "$CALLED_FROM/$1" ;; esac; }

backup_program() { # backup | restore | check   FILE
  java -Xmx1g -jar "$VAR/app/web/dachshund-web-0.1.0-run.jar" "$1" "$2" --dachshund.var="$VAR" --dachshund.database.port="$DB_PORT" --dachshund.database.password-file="$VAR/mariadb/own.password"
}

# With the private MariaDB, which is started for it where it does not run.
with_database() { # command...
  local started="" result
  if [ -n "$(pid_of database)" ]; then
    DB_PORT=$(cat "$VAR/ports/database")
  else
    start_database
    started=yes
  fi
  "$@"
  result=$?
  [ -z "$started" ] || stop_process database 60
  return $result
}

backup_installation() { # [check] FILE
  local word=backup
  [ "${1:-}" = check ] && { word=check; shift; }
  [ -n "${1:-}" ] || fail "name the file of the backup." "./dachshund backup FILE, ./dachshund backup check FILE"
  passphrase "$word"
  ensure_packages run; build_if_changed
  with_database backup_program "$word" "$(from_there "$1")" || fail "the $word was not done."
  [ "$word" = backup ] && note "The backup is made. ./dachshund backup check $1 rehearses bringing it back." || note "The backup can be brought back. Nothing of the rehearsal is left."
}

# What is sealed from now on is sealed with the new key; what was sealed before is opened with the old one, which stays beside it.
new_key() { # new
  local key="$VAR/secret.key" old
  [ "$1" = new ] || { usage; fail "\"key\" takes new."; }
  [ -z "$(pid_of launcher)" ] || fail "Dachshund runs here (pid $(pid_of launcher))." "Stop it with ./dachshund stop, then give it a new key."
  [ -f "$key" ] || fail "There is no key in $VAR yet." "The first start draws one."
  old="$key.old-$(date -u +%Y%m%dT%H%M%SZ)"
  (umask 077; head -c 32 /dev/urandom > "$key.next") && mv "$key" "$old" && mv "$key.next" "$key" || fail "the key in $VAR cannot be changed."
  note "The new key is in place. The old one is $old; keep both, here and where you keep the key safe."
}

restore_installation() { # FILE
  [ -n "${1:-}" ] || fail "name the file of the backup." "./dachshund restore FILE"
  [ -z "$(pid_of launcher)" ] || fail "Dachshund runs here (pid $(pid_of launcher))." "A backup is brought back onto an empty installation. Stop it and move $VAR away, or set DACHSHUND_VAR to another folder."
  passphrase restore
  mkdir -p "$RUN" "$LOGS"
  ensure_packages run; build_if_changed
  with_database backup_program restore "$(from_there "$1")" || fail "the backup was not brought back." "Nothing of it is left here."
  note "It is brought back. ./dachshund start (or demo) goes on from there. See that the old machine does not run any more: both would record."
}
