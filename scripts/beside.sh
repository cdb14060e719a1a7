# Sourced by ./test: checks that go on beside others, and are heard at the end.

# start_beside COMMAND: runs it beside what follows. Ends with the script, however that ends.
start_beside() {
  beside_said=$(mktemp)
  set -m # a process group of its own, so that all of it can be ended
  "$@" >"$beside_said" 2>&1 &
  beside_group=$!
  set +m
  # The group is gone where all went well, and a trap that fails would fail the script.
  trap 'kill -- -$beside_group 2>/dev/null || true; rm -f "$beside_said"' EXIT
}

# end_beside waits for the command, prints what it said, and fails where it failed.
end_beside() {
  local failed=0
  wait "$beside_group" || failed=1
  cat "$beside_said"
  return $failed
}
