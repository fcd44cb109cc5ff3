# Words on the terminal. A step shows what is being done; fail says what happened and what to do, and ends.

step() { printf '  %-46s' "$*"; STEP_FROM=$SECONDS; }
done_step() { printf '%s\n' "${1:-done} ($((SECONDS - STEP_FROM)) s)"; }
note() { printf '  %s\n' "$*"; }
fail() {
  printf '\n\nDachshund cannot go on: %s\n' "$1" >&2
  shift
  for line in "$@"; do printf '  %s\n' "$line" >&2; done
  exit 1
}
