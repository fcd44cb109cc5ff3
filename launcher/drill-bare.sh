#!/usr/bin/env bash
# The part of `./dachshund drill bare` that is root's, in a mount namespace of its own.
set -uo pipefail
HOME_DIR=$1 TREE=$2 PART=$3 PORT=$4 LOGS=$5
. "$HOME_DIR/launcher/say.sh"

own_sources() { cat /etc/apt/sources.list /etc/apt/sources.list.d/debian.sources 2>/dev/null; }
mirror() { own_sources | sed -nE 's/^(URIs: *|deb +(\[[^]]*\] +)?)(https?:[^ ]+).*/\3/p' | head -1; }
as_user() { chroot "$TREE" su - eva -c "unset LANG LC_ALL; cd dachshund && $1"; }

[ -n "$(mirror)" ] || fail "this machine has no source of Debian packages that could be carried in."
step "A bare Debian 12"
debootstrap --variant=minbase --include=sudo,ca-certificates bookworm "$TREE" "$(mirror)" >"$LOGS/bare-tree.log" 2>&1 \
  || { tail -3 "$LOGS/bare-tree.log" >&2; fail "debootstrap made no tree."; }
done_step

# How this machine reaches its packages.
for file in /etc/apt/sources.list /etc/apt/sources.list.d/debian.sources; do
  [ ! -s "$file" ] || { mkdir -p "$TREE$(dirname "$file")"; cp "$file" "$TREE$file"; }
done
[ ! -s /etc/apt/sources.list.d/debian.sources ] || [ -s /etc/apt/sources.list ] || : >"$TREE/etc/apt/sources.list"
grep -ls '^ *Acquire' /etc/apt/apt.conf.d/* | while read -r file; do cp "$file" "$TREE$file"; done
cp -r /etc/apt/auth.conf.d "$TREE/etc/apt/" 2>/dev/null
cp /etc/resolv.conf /etc/hosts "$TREE/etc/" 2>/dev/null
mkdir -p "$TREE/usr/local/share/ca-certificates"
cp -r /usr/local/share/ca-certificates/. "$TREE/usr/local/share/ca-certificates/" 2>/dev/null
chroot "$TREE" update-ca-certificates >>"$LOGS/bare-tree.log" 2>&1

mount -t proc proc "$TREE/proc" && mount --rbind /dev "$TREE/dev" || fail "the tree cannot be given /proc and /dev."
chroot "$TREE" useradd -m -s /bin/bash eva
echo 'eva ALL=(ALL) NOPASSWD: ALL' >"$TREE/etc/sudoers.d/eva"
env | grep -iE '^(https?|no)_proxy=' | sed 's/^/export /' >"$TREE/etc/profile.d/proxy.sh"
if [ -s "${HOME:-/root}/.m2/settings.xml" ]; then
  mkdir -p "$TREE/home/eva/.m2" && cp "${HOME:-/root}/.m2/settings.xml" "$TREE/home/eva/.m2/"
fi
git -c safe.directory='*' clone -q "$HOME_DIR" "$TREE/home/eva/dachshund" || fail "what is committed could not be copied."
chroot "$TREE" chown -R eva:eva /home/eva
trap 'as_user "./dachshund stop" >>"$LOGS/bare-demo.log" 2>&1' EXIT

if [ "$PART" != test ]; then
  step "./dachshund demo"
  as_user "DACHSHUND_PORT=$PORT ./dachshund demo" >"$LOGS/bare-demo.log" 2>&1 &
  until grep -q '^Ready after' "$LOGS/bare-demo.log"; do
    jobs %1 >/dev/null 2>&1 && [ -n "$(jobs -r)" ] || { tail -8 "$LOGS/bare-demo.log" >&2; fail "the demo did not come up."; }
    sleep 1
  done
  done_step "$(sed -nE 's/^(Ready after [0-9]+ s).*/\1/p' "$LOGS/bare-demo.log")"
  sleep 30
  # Counted by a client of its own, in the tables.
  port=$(sed -nE 's/^ *database +127\.0\.0\.1:([0-9]+).*/\1/p' "$LOGS/bare-demo.log")
  read -r rows ids < <(chroot "$TREE" mariadb -h127.0.0.1 -P"$port" -uquillmoor -pquillmoor-demo -N -e \
    'SELECT COUNT(*), COUNT(DISTINCT row_id) FROM quillmoor_records.dryer_log' 2>>"$LOGS/bare-demo.log")
  troubles=$(cat "$TREE"/home/eva/dachshund/var/logs/{web,plant}.log | grep -cE ' (WARN|ERROR) ')
  note "dryer_log: ${rows:-no} rows, ${ids:-no} row ids; lines WARN or ERROR in the logs: $troubles"
  as_user "./dachshund stop" >>"$LOGS/bare-demo.log" 2>&1
  wait
  [ "${rows:-0}" -gt 0 ] && [ "$rows" = "${ids:-}" ] || fail "the demo of the bare tree records no rows, or some twice."
fi
if [ "$PART" != demo ]; then
  step "./dachshund test"
  as_user "./dachshund test" >"$LOGS/bare-test.log" 2>&1 \
    || { grep -E 'ERROR.*(Test|Fail)|Tests run:.*(Failures: [1-9]|Errors: [1-9])' "$LOGS/bare-test.log" | head -8 >&2; fail "tests failed in the bare tree."; }
  done_step
  note "$(grep -oE 'Tests run: [0-9]+, Failures: 0, Errors: 0, Skipped: [0-9]+$' "$LOGS/bare-test.log" | grep -oE 'run: [0-9]+' | awk '{n += $2} END {print n " tests, all green"}')"
fi
