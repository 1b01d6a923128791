#!/usr/bin/env bash
# Two servers behind nginx and a streaming replica, on a demo. One server is killed with -9 while loads are booked, then the other; the replica is
# stopped. Nothing acknowledged is lost or done twice, open pages go on, and reports are still answered. Takes six ports from the given one.
set -uo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
PORT=${1:-4290}
WORK=$(mktemp -d "${TMPDIR:-/tmp}/lark-two.XXXXXX")
chmod 755 "$WORK"
export LARK_DATA=$WORK/data LARK_PORT=$PORT LARK_PG_PORT=$((PORT + 1)) LARK_PROXIES=127.0.0.1
unset LARK_PAGES LARK_DATABASE LARK_DATABASE_OWNER
SECOND=$((PORT + 2)) PROXY=$((PORT + 3)) REPLICA=$((PORT + 4)) FIRST=$((PORT + 5))
# One public address for both: links in emails and the names of the cookies come from it.
export LARK_URL=http://127.0.0.1:$PROXY
FAILED=0
expect() { if [ "$2" = "$3" ]; then echo "· $1"; else echo "NOT AS EXPECTED: $1: '$2', not '$3'"; FAILED=1; fi; }
PG=$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -1)
as_pg() { if [ "$(id -u)" -eq 0 ]; then (cd / && setpriv --reuid postgres --regid postgres --init-groups env "PGPASSWORD=${PGPASSWORD:-}" "$@"); else "$@"; fi; }
finish() {
  [ -f "$WORK/nginx.pid" ] && kill "$(cat "$WORK/nginx.pid")" 2>/dev/null
  kill -9 "${SERVERS[@]:-}" 2>/dev/null
  [ -d "$WORK/replica" ] && as_pg "$PG/pg_ctl" -D "$WORK/replica" -m immediate stop >/dev/null 2>&1
  ./lark stop >/dev/null 2>&1
  [ -L "$LARK_DATA/pg" ] && rm -rf "$(readlink "$LARK_DATA/pg")"
  rm -rf "$WORK"
}
SERVERS=()
trap finish EXIT
command -v nginx >/dev/null || { echo 'nginx is missing: apt-get install nginx-light'; exit 1; }

# ./lark makes the build, the cluster and the demo, and keeps the cluster; its own server stays out of it.
./lark start >"$WORK/start.log" 2>&1 &
for _ in $(seq 1500); do curl -sf "http://127.0.0.1:$PORT/readyz" >/dev/null && break; sleep 0.2; done
curl -sf "http://127.0.0.1:$PORT/readyz" >/dev/null || { cat "$WORK/start.log"; exit 1; }
SERVER=$(tr '\0' ' ' <"/proc/$(cat "$LARK_DATA/server-pid")/cmdline" | grep -o '[^ ]*SteadyLark.Server.dll')
APP="Host=127.0.0.1;Port=$LARK_PG_PORT;Database=lark;Username=lark_app;Password=$(cat "$LARK_DATA/pg-app-password");Maximum Pool Size=30"
export PGPASSWORD=$(cat "$LARK_DATA/pg-password")
psql() { "$PG/psql" -h 127.0.0.1 -p "$1" -U lark -d lark -qtA -c "$2"; }

# The replica (PostgreSQL 15, chapter 27.2): a base backup that goes on receiving.
mkdir "$WORK/replica"
[ "$(id -u)" -ne 0 ] || chown postgres: "$WORK/replica"
chmod 700 "$WORK/replica"
as_pg "$PG/pg_basebackup" -h 127.0.0.1 -p "$LARK_PG_PORT" -U lark -D "$WORK/replica" -R -X stream
as_pg "$PG/pg_ctl" -D "$WORK/replica" -l "$WORK/replica/log" -w -o "-p $REPLICA -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=200" start >/dev/null
expect 'the replica follows' "$(psql "$REPLICA" 'select pg_is_in_recovery()')" t

serve() {
  LARK_DATABASE=$APP LARK_DATABASE_REPLICA="Host=127.0.0.1;Port=$REPLICA;Database=lark;Username=lark_app;Password=$(cat "$LARK_DATA/pg-app-password");Timeout=3" \
    LARK_DATA=$WORK/server-$1 LARK_PORT=$1 dotnet "$SERVER" serve >"$WORK/server-$1.log" 2>&1 &
  SERVERS+=($!)
  for _ in $(seq 300); do curl -sf "http://127.0.0.1:$1/readyz" >/dev/null && return; sleep 0.1; done
  cat "$WORK/server-$1.log"
}
serve "$FIRST"
FIRST_PID=${SERVERS[-1]}
serve "$SECOND"
SECOND_PID=${SERVERS[-1]}
cat >"$WORK/nginx.conf" <<CONF
pid $WORK/nginx.pid; error_log $WORK/nginx.log; worker_processes 1;
events {}
http {
  access_log off; client_body_temp_path $WORK/body; proxy_temp_path $WORK/proxy; fastcgi_temp_path $WORK/f; uwsgi_temp_path $WORK/u; scgi_temp_path $WORK/s;
  upstream lark { server 127.0.0.1:$FIRST max_fails=1 fail_timeout=2s; server 127.0.0.1:$SECOND max_fails=1 fail_timeout=2s; }
  server {
    listen 127.0.0.1:$PROXY; client_max_body_size 60m;
    location / {
      proxy_pass http://lark; proxy_http_version 1.1; proxy_set_header Connection ''; proxy_set_header Host \$host:\$server_port;
      proxy_set_header X-Forwarded-For \$remote_addr; proxy_set_header X-Forwarded-Proto \$scheme;
      proxy_buffering off; proxy_read_timeout 1h; proxy_next_upstream error timeout http_503;
    }
  }
}
CONF
nginx -c "$WORK/nginx.conf"
sleep 1

node tests/two-servers.mjs "http://127.0.0.1:$PROXY" 300 >"$WORK/first.json" 2>"$WORK/first.err" &
drill=$!
sleep 4
kill -9 "$SECOND_PID"
wait "$drill" || cat "$WORK/first.err"
cat "$WORK/first.json"
expect 'all loads are booked though a server was killed' "$(grep -o '"booked":300' "$WORK/first.json")" '"booked":300'
expect 'an open page heard of all of them' "$(grep -o '"heard":300' "$WORK/first.json")" '"heard":300'
expect 'each is there once' "$(psql "$LARK_PG_PORT" "select count(*), count(distinct reference) from loads where reference like 'drill-%'")" '300|300'
expect 'the books balance' "$(psql "$LARK_PG_PORT" 'select sum(debit) = sum(credit) from entry_lines')" t

serve "$SECOND"
SECOND_PID=${SERVERS[-1]}
kill -9 "$FIRST_PID"
expect 'the other server takes over when the first is killed' "$(curl -s -o /dev/null -w '%{http_code}' "http://127.0.0.1:$PROXY/readyz")" 200

jar=$WORK/jar
token=$(curl -s -c "$jar" -X POST -H 'Content-Type: application/json' "http://127.0.0.1:$SECOND/api/session" -d '{"login":"dana","password":"steady-lark"}' | grep -o '"token":"[^"]*"' | cut -d'"' -f4)
report() { curl -s -o /dev/null -w '%{http_code}' -b "$jar" -H "X-Lark-Token: $token" "http://127.0.0.1:$SECOND/api/ledger/profit?by=month"; }
expect 'a report is answered' "$(report)" 200
expect 'by the replica' "$(psql "$REPLICA" "select count(*) > 0 from pg_stat_activity where usename = 'lark_app'")" t
as_pg "$PG/pg_ctl" -D "$WORK/replica" -m immediate stop >/dev/null
expect 'and without the replica by the main database' "$(report)" 200
exit "$FAILED"
