#!/usr/bin/env bash
# Takes two loads through the API from a customer's call to cash, one with our driver and one with a carrier, and prints
# the trial balance after each step. Needs a running demo: docs/examples/call-to-cash.sh http://127.0.0.1:4180
# Needs curl and node (which reads the JSON). Exits with 0 only if everything was as expected.
set -euo pipefail

BASE=${1:?give the address of Steady Lark, such as http://127.0.0.1:4180}
WORK=$(mktemp -d)
trap 'rm -rf "$WORK"' EXIT
TOKEN=

# pick EXPRESSION: reads JSON from standard input as `d` and prints the expression.
pick() { node -e 'const d = JSON.parse(require("fs").readFileSync(0, "utf8")); const v = eval(process.argv[1]); console.log(v ?? "");' "$1"; }
fail() { echo "NOT AS EXPECTED: $*" >&2; exit 1; }
expect() { [ "$2" = "$3" ] && echo "   $1: $2" || fail "$1 is '$2', not '$3'"; }

# call METHOD PATH [BODY]: prints the answer; ends the script if it was refused.
call() {
  local method=$1 path=$2 body=${3:-} status
  status=$(curl -sS -o "$WORK/answer" -w '%{http_code}' -b "$WORK/jar" -c "$WORK/jar" -X "$method" "$BASE/api/$path" \
    -H "X-Lark-Token: $TOKEN" -H "Idempotency-Key: $(node -p 'crypto.randomUUID()')" ${body:+-H 'Content-Type: application/json' --data-binary "$body"})
  case $status in 2*) cat "$WORK/answer" ;; *) fail "$method $path was answered $status: $(pick 'd.title' <"$WORK/answer")" ;; esac
}
# refused CODE METHOD PATH [BODY]: must be refused with this code.
refused() {
  local code=$1
  shift
  local got
  got=$( (call "$@" >/dev/null) 2>/dev/null && echo accepted || pick 'd.errors[0].code' <"$WORK/answer")
  expect "refused, as expected" "$got" "$code"
}
sign_in() {
  rm -f "$WORK/jar"
  TOKEN=
  TOKEN=$(call POST session "{\"login\":\"$1\",\"password\":\"steady-lark\"}" | pick 'd.token')
}
books() {
  local b zero
  b=$(call GET ledger/trial-balance)
  zero=$(pick 'd.zero.amount' <<<"$b")
  [ "$zero" = 0.00 ] || fail "the trial balance is $zero, not 0.00"
  pick '"   books: " + ["1000","1200","2000","2100"].map(c => { const a = d.accounts.find(a => a.code === c); return a.name + " " + a.balance.amount }).join(", ") + "; total " + d.zero.amount' <<<"$b"
}
account() { call GET ledger/trial-balance | pick "d.accounts.find(a => a.code === '$1').balance.amount"; }
usd() { printf '{"amount":"%s","currency":"USD"}' "$1"; }
less() { node -p "(Number('$1') - Number('$2')).toFixed(2)"; }
state() { call GET "loads/$1" | pick 'd.sheet.load.state'; }
stop() { call GET "loads/$1" | pick "d.sheet.load.stops[$2].id"; }

echo "1. Sign in as the owner"
sign_in dana
TODAY=$(call GET session | pick 'd.today')
books
OWED=$(account 1200)

echo "2. A new customer calls: create the customer and its places, and book two loads"
TAG=$(date +%s)
CUSTOMER=$(call POST companies "{\"name\":\"Thistle Ridge Oats $TAG\",\"email\":\"pay@thistleridge.example\",\"isCustomer\":true,\"isCarrier\":false,\"termsDays\":15}" | pick 'd.id')
TOWN=$(call GET 'towns?q=Missoula%20MT' | pick 'd.find(t => t.name === "Missoula" && t.region === "MT").id')
OTHER=$(call GET 'towns?q=Kalispell%20MT' | pick 'd.find(t => t.name === "Kalispell").id')
FROM=$(call POST places "{\"name\":\"Thistle Ridge Mill $TAG\",\"townId\":$TOWN}" | pick 'd.id')
TO=$(call POST places "{\"name\":\"Flathead Oat House $TAG\",\"townId\":$OTHER}" | pick 'd.id')

# Both loads ran on earlier days, so that they can be completed today.
day() { node -p "new Date(Date.parse('$TODAY') + $1 * 864e5).toISOString().slice(0, 10)"; }
order() {
  printf '{"customerId":%s,"reference":"PO %s","equipment":"van","draft":false,"stops":[{"kind":"pickup","placeId":%s,"from":"%sT08:00:00"},{"kind":"delivery","placeId":%s,"from":"%sT15:00:00"}],"freight":[{"description":"rolled oats","pallets":20,"weightLb":41000}],"charges":[{"kind":"line_haul","amount":%s},{"kind":"fuel_surcharge","amount":%s}]}' \
    "$CUSTOMER" "$TAG-$1" "$FROM" "$(day "$2")" "$TO" "$(day "$2")" "$(usd 900.00)" "$(usd 110.50)"
}
refused missing POST loads '{"draft":false}'
OURS=$(call POST loads "$(order A -2)" | pick 'd.id')
THEIRS=$(call POST loads "$(order B -1)" | pick 'd.id')
expect 'the first load is' "$(state "$OURS")" booked
books

echo "3. Cover: the first by our driver, the second by a carrier"
CHOICES=$(call GET "loads/$OURS/choices")
DRIVER=$(pick 'd.drivers.find(x => !x.commitments.length).driverId' <<<"$CHOICES")
TRUCK=$(pick 'd.trucks.filter(x => !x.blocked).at(-1).id' <<<"$CHOICES")
TRAILER=$(pick 'd.trailers.filter(x => !x.blocked).at(-1).id' <<<"$CHOICES")
call POST "loads/$OURS/cover/driver" "{\"driverId\":$DRIVER,\"truckId\":$TRUCK,\"trailerId\":$TRAILER}" | pick '"   " + d.number + " assigned to " + d.who + ", trip " + d.trip'
UNFIT=$(call GET "loads/$THEIRS/choices" | pick 'd.carriers.find(c => c.blocked.some(w => w.includes("authority"))).id')
refused carrier.authority POST "loads/$THEIRS/cover/carrier" "{\"carrierId\":$UNFIT,\"pay\":$(usd 760.00)}"
CARRIER=$(call GET "loads/$THEIRS/choices" | pick 'd.carriers.find(c => !c.blocked.length).id')
call POST "loads/$THEIRS/cover/carrier" "{\"carrierId\":$CARRIER,\"pay\":$(usd 760.00)}" | pick '"   " + d.number + " tendered to " + d.who + ", rate confirmation to " + d.mailTo'
echo "   waiting for the email to go out"
NUMBER=$(call GET "loads/$THEIRS" | pick 'd.sheet.load.number')
LINK=
for _ in $(seq 40); do
  LINK=$(call GET outside/emails | pick "(d.find(m => m.subject.endsWith('load $NUMBER'))?.text.match(/accept\/([0-9a-f]+)/) ?? [])[1]")
  [ -n "$LINK" ] && break
  sleep 0.5
done
[ -n "$LINK" ] || fail "no rate confirmation arrived"
call POST "accept/$LINK" '{"name":"Jo Ferro"}' | pick '"   accepted, signed " + d.acceptedBy'
call POST "accept/$LINK/dispatch" '{"driver":"Ray Ostrander","phone":"509-555-0142","truck":"118"}' | pick '"   " + d.dispatch.driver + " comes with truck " + d.dispatch.truck'
expect 'the second load is' "$(state "$THEIRS")" covered
books

echo "4. Roll: record departure and delivery"
for load in "$OURS" "$THEIRS"; do
  back=$([ "$load" = "$OURS" ] && echo -2 || echo -1)
  call POST "loads/$load/stops/$(stop "$load" 0)" "{\"event\":\"left\",\"at\":\"$(day "$back")T15:30:00Z\"}" | pick '"   " + d.summary'
  call POST "loads/$load/stops/$(stop "$load" 1)" "{\"event\":\"delivered\",\"at\":\"$(day "$back")T21:40:00Z\",\"receivedBy\":\"K. Osei\"}" | pick '"   " + d.summary'
  expect 'it is' "$(state "$load")" delivered
done
books

echo "5. Bill: refused without the POD, accepted with it"
refused load.pod.missing POST invoices "{\"loadIds\":[$OURS,$THEIRS]}"
# A one-pixel PNG stands for the scan of a signed POD.
printf 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg==' | base64 -d >"$WORK/pod.png"
for load in "$OURS" "$THEIRS"; do
  curl -sSf -b "$WORK/jar" -H "X-Lark-Token: $TOKEN" -H 'Content-Type: application/octet-stream' --data-binary @"$WORK/pod.png" "$BASE/api/loads/$load/documents?kind=pod&name=pod.png" | pick '"   POD stored, sha256 " + d.sha256.slice(0, 16) + "…"'
done
INVOICE=$(call POST invoices "{\"loadIds\":[$OURS,$THEIRS]}")
INVOICE_ID=$(pick 'd.id' <<<"$INVOICE")
expect 'the invoice total is' "$(pick 'd.total.amount' <<<"$INVOICE")" 2021.00
curl -sSf -b "$WORK/jar" -o "$WORK/invoice.pdf" "$BASE/api/invoices/$INVOICE_ID/pdf"
expect 'it is a' "$(head -c 5 "$WORK/invoice.pdf")" '%PDF-'
expect 'receivables grew by' "$(less "$(account 1200)" "$OWED")" 2021.00
refused load.billed POST invoices "{\"loadIds\":[$OURS]}"
books

echo "6. Record payments: a part, then the rest"
refused over.open POST payments "{\"customerId\":$CUSTOMER,\"method\":\"check\",\"amount\":$(usd 3000.00),\"applications\":[{\"invoiceId\":$INVOICE_ID,\"amount\":$(usd 3000.00)}]}"
call POST payments "{\"customerId\":$CUSTOMER,\"method\":\"check\",\"reference\":\"8841\",\"amount\":$(usd 1000.00)}" >/dev/null
expect 'still open' "$(call GET "invoices/$INVOICE_ID" | pick 'd.invoice.open.amount')" 1021.00
call POST payments "{\"customerId\":$CUSTOMER,\"method\":\"ach\",\"amount\":$(usd 1021.00)}" >/dev/null
expect 'still open' "$(call GET "invoices/$INVOICE_ID" | pick 'd.invoice.open.amount')" 0.00
expect 'receivables above the start' "$(less "$(account 1200)" "$OWED")" 0.00
books

echo "7. Pay the carrier: its bill is 40 over the agreed amount"
LEG=$(call GET "loads/$THEIRS" | pick 'd.sheet.legs[0].id')
BILL=$(call POST bills "{\"legId\":$LEG,\"number\":\"TR-$TAG\",\"amount\":$(usd 800.00)}")
expect 'over the agreed amount' "$(pick 'd.difference.amount' <<<"$BILL")" 40.00
BILL_ID=$(pick 'd.id' <<<"$BILL")
refused over.agreed POST "bills/$BILL_ID/approve" '{}'
PAYMENT="{\"bills\":[{\"billId\":$BILL_ID}],\"method\":\"ach\"}"
refused bill.state POST vendor-payments "$PAYMENT"
call POST "bills/$BILL_ID/approve" "{\"amount\":$(usd 760.00)}" >/dev/null
echo "   the person who approved a bill cannot pay it"
refused pay.same.person POST vendor-payments "$PAYMENT"
sign_in marta
call POST vendor-payments "$PAYMENT" | pick 'd.payments.map(p => "   paid " + p.amount.amount + " to " + p.payee).join("\n")'
expect 'the second load is' "$(state "$THEIRS")" closed
books

echo "8. Pay the driver: the settlement, less an advance"
call POST advances "{\"driverId\":$DRIVER,\"amount\":$(usd 50.00),\"note\":\"on the fuel card\"}" >/dev/null
MONDAY=$(node -p "const d = new Date('$(day -2)'); d.setUTCDate(d.getUTCDate() - (d.getUTCDay() + 6) % 7); d.toISOString().slice(0, 10)")
WEEK=$(call GET "settlements?monday=$MONDAY" | pick "JSON.stringify(d.find(w => w.driverId === $DRIVER))")
pick '"   " + d.driver + ": " + d.legs + " legs, " + d.miles + " miles, earnings " + d.earned.amount + ", net pay " + d.net.amount' <<<"$WEEK"
pick "d.lines.some(l => l.loadId === $OURS)" <<<"$WEEK" | grep -q true || fail "the load is not on the driver's settlement"
if [ "$(pick 'd.ended' <<<"$WEEK")" = true ]; then
  SETTLEMENT=$(call POST settlements/approve "{\"driverId\":$DRIVER,\"monday\":\"$MONDAY\"}" | pick 'd.id')
  sign_in dana
  call POST "settlements/$SETTLEMENT/pay" '{"method":"ach"}' | pick '"   paid " + d.net.amount'
  expect 'the first load is' "$(state "$OURS")" closed
else
  refused settlement.running POST settlements/approve "{\"driverId\":$DRIVER,\"monday\":\"$MONDAY\"}"
  echo "   the settlement week has not ended; it can be approved after that"
  expect 'the first load is' "$(state "$OURS")" billed
fi
books

echo "9. Ledger lines of the second load"
call GET "ledger/lines?loadId=$THEIRS" | pick 'd.rows.map(l => "   " + l.postedOn + "  " + l.account + " " + l.accountName + "  " + (l.debit.amount !== "0.00" ? "debit " + l.debit.amount : "credit " + l.credit.amount) + "  " + l.memo).join("\n")'
echo "Done: every step worked, and the books balance."
