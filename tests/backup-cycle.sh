#!/usr/bin/env bash
# A company is backed up, verified, tampered with, and restored elsewhere, by ./lark as its owner would; each way to fail leaves nothing behind.
set -uo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
PORT=${1:?a free port is needed}
WORK=$(mktemp -d "${TMPDIR:-/tmp}/lark-cycle.XXXXXX")
chmod 755 "$WORK"
export LARK_DATA=$WORK/first LARK_PORT=$PORT LARK_PG_PORT=$((PORT + 1)) LARK_DEMO=none
unset LARK_URL LARK_PAGES LARK_DATABASE LARK_DATABASE_OWNER LARK_BACKUP_PASSPHRASE
FAILED=0
expect() { if [ "$2" = "$3" ]; then echo "· $1"; else echo "NOT AS EXPECTED: $1: '$2', not '$3'"; FAILED=1; fi; }
holds() { case $2 in *"$3"*) echo "· $1" ;; *) echo "NOT AS EXPECTED: $1: '$2' lacks '$3'"; FAILED=1 ;; esac; }
finish() {
  for data in first second; do LARK_DATA=$WORK/$data ./lark stop >/dev/null 2>&1; done
  for data in first second; do [ -L "$WORK/$data/pg" ] && rm -rf "$(readlink "$WORK/$data/pg")"; done
  rm -rf "$WORK"
}
trap finish EXIT
start() {
  ./lark start >"$WORK/start.log" 2>&1 9>&- &
  for _ in $(seq 600); do
    curl -sf "http://127.0.0.1:$PORT/readyz" >/dev/null && return 0
    sleep 0.2
  done
  cat "$WORK/start.log"
  exit 1
}
sign_in() { curl -s -o /dev/null -w '%{http_code}' -X POST -H 'Content-Type: application/json' "http://127.0.0.1:$PORT/api/session" -d '{"login":"pat","password":"nine gravel cottonwood"}'; }
psql() { PGPASSWORD=$(cat "$LARK_DATA/pg-password") "$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -1)/psql" -h 127.0.0.1 -p "$LARK_PG_PORT" -U lark -d lark -qtA -c "$1"; }

start
link=$(grep -o 'welcome/[0-9a-f]*' "$WORK/start.log" | tail -1)
status=$(curl -s -o "$WORK/answer" -w '%{http_code}' -X POST -H 'Content-Type: application/json' "http://127.0.0.1:$PORT/api/account-links/${link#welcome/}/company" \
  -d '{"company":"Sixmile Freight","address":"12 Mill Road","phone":"406-555-0101","email":"freight@sixmile.example","zone":"America/Denver","name":"Pat Lund","login":"pat","ownerEmail":"pat@sixmile.example","password":"nine gravel cottonwood"}')
expect 'a company is set up' "$status" 200
expect 'its owner signs in' "$(sign_in)" 200
expect 'the server is no superuser' "$(psql "select bool_or(r.rolsuper or r.rolcreatedb) from pg_stat_activity a join pg_roles r on r.rolname = a.usename where a.datname = 'lark' and a.application_name not like 'psql%'")" f
said=$(./lark verify)
expect 'the audit log is verified' $? 0
holds 'it says so' "$said" 'complete and unchanged'
head=${said##*Head: }

./lark backup "$WORK/nowhere/x.backup" >/dev/null 2>&1
expect 'a backup into no folder fails' $? 1
(ulimit -f 100; ./lark backup "$WORK/full.backup") >"$WORK/full.log" 2>&1
[ $? -ne 0 ] && code=failed || code=saved
expect 'a backup with no room left fails' $code failed
./lark backup "$WORK/killed.backup" >/dev/null 2>&1 &
killed=$!
sleep 0.3
kill -TERM "$killed"
wait "$killed"
expect 'nothing is left of those' "$(ls "$WORK" | grep -c backup)" 0
expect 'nor in the folder for what is temporary' "$(ls "${TMPDIR:-/tmp}" | grep -c 'lark-backup\.')" 0
./lark backup "$WORK/good.backup" >"$WORK/backup.log" 2>&1
expect 'a backup is made' $? 0
expect 'only its owner may read it' "$(stat -c %a "$WORK/good.backup")" 600

psql 'alter table events disable trigger user; update events set summary = $$nothing$$ where id = (select min(id) from events); alter table events enable trigger user'
said=$(./lark verify 2>&1)
expect 'a change by the owner of the database is found' $? 1
holds 'it names the entry' "$said" 'was changed after it was recorded'
./lark stop >/dev/null

export LARK_DATA=$WORK/second
LARK_DATA=$WORK/second ./lark restore "$WORK/full.backup" >/dev/null 2>&1
expect 'what is not there is not restored' $? 1
said=$(./lark restore "$WORK/good.backup" 2>&1)
expect 'it is restored' $? 0
holds 'and compared' "$said" 'all equal'
said=$(./lark verify "$head")
expect 'the audit log holds what it held' $? 0
start
expect 'no session came along' "$(psql 'select count(*) from sessions')" 0
expect 'the owner signs in again' "$(sign_in)" 200
limited="begin; set local lark.view = '{\"customers\":[0]}'; set local role lark_limited; select count(*) from events; commit"
expect 'views can be limited' "$(psql "select bool_and(relrowsecurity) from pg_class where relname in ('loads', 'events', 'invoices')")$(psql "$limited" | tail -1)" t0
expect 'events go on after those that were restored' "$(psql "select (array_agg(kind order by xid, id))[1] = 'setup.company_created' and (array_agg(kind order by xid desc, id desc))[1] = 'session.began' from events")" t
exit $FAILED
