// Books loads through a proxy while servers come and go. Every booking carries a key and is repeated until it is answered.
// node two-servers.mjs ADDRESS COUNT: prints one line of JSON.
const [address, count] = [process.argv[2], Number(process.argv[3])];
const pause = (ms) => new Promise((done) => setTimeout(done, ms));
let cookies = '';
let token = '';

async function call(method, path, body, key) {
  const headers = { 'Content-Type': 'application/json', Cookie: cookies };
  if (token) headers['X-Lark-Token'] = token;
  if (key) headers['Idempotency-Key'] = key;
  const answer = await fetch(address + path, { method, headers, body: body && JSON.stringify(body), signal: AbortSignal.timeout(10_000) });
  for (const cookie of answer.headers.getSetCookie()) {
    const [pair] = cookie.split(';');
    cookies = [...cookies.split('; ').filter((c) => c && c.split('=')[0] !== pair.split('=')[0]), pair].join('; ');
  }
  if (!answer.ok) throw new Error(`${answer.status} ${await answer.text()}`);
  return answer.json();
}

token = (await call('POST', '/api/session', { login: 'dana', password: 'steady-lark' })).token;
const like = (await call('GET', '/api/loads?view=open&limit=1')).rows[0].load;
const day = (n) => `2027-01-${String(1 + n).padStart(2, '0')}`;
const order = (n) => ({
  customerId: like.customerId,
  reference: `drill-${n}`,
  equipment: like.equipment,
  stops: [
    { kind: 'pickup', placeId: like.stops[0].placeId, from: `${day(n % 20)}T06:00:00`, until: null, note: null },
    { kind: 'delivery', placeId: like.stops.at(-1).placeId, from: `${day((n % 20) + 3)}T17:00:00`, until: null, note: null },
  ],
  freight: [{ description: 'freight', pieces: null, pallets: 20, weightLb: 30000, temperatureF: null }],
  charges: [{ kind: 'line_haul', description: null, amount: { amount: '1500.00', currency: 'USD' } }],
  driverInstructions: null,
  draft: false,
});

// A page that is open all the while: it hears of every booking, or is told to reload.
const heard = new Set();
let [reconnects, reloads, last, done] = [0, 0, '', false];
const listening = (async () => {
  while (!done) {
    try {
      const stream = await fetch(address + '/api/events/stream', { headers: { Cookie: cookies, ...(last ? { 'Last-Event-ID': last } : {}) } });
      let text = '';
      for await (const chunk of stream.body.pipeThrough(new TextDecoderStream())) {
        text += chunk;
        const parts = text.split('\n\n');
        text = parts.pop();
        for (const part of parts) {
          last = /^id: (.*)$/m.exec(part)?.[1] ?? last;
          if (/^event: reload$/m.test(part)) reloads++;
          const data = /^event: done\ndata: (.*)$/m.exec(part)?.[1];
          if (data && JSON.parse(data).kind === 'load.booked') heard.add(JSON.parse(data).loadId);
        }
        if (done) return;
      }
    } catch {
      // The server behind it is gone; the next one takes over.
    }
    reconnects++;
    await pause(200);
  }
})();

let [next, repeated] = [0, 0];
const booked = [];
async function work() {
  for (let n = next++; n < count; n = next++) {
    for (let tries = 0; ; tries++) {
      try {
        booked.push((await call('POST', '/api/loads', order(n), `drill-${n}-key`)).id);
        break;
      } catch (e) {
        if (tries > 100 || /^4\d\d/.test(e.message)) throw e;
        repeated++;
        await pause(100);
      }
    }
  }
}
await Promise.all(Array.from({ length: 6 }, work));
for (let i = 0; i < 100 && booked.some((id) => !heard.has(id)) && !reloads; i++) await pause(100);
done = true;
console.log(JSON.stringify({ booked: new Set(booked).size, repeated, reconnects, reloads, heard: booked.filter((id) => heard.has(id)).length }));
process.exit(0);
