import type { Ticket } from './ticket-data.ts';

const escape = (text: string) => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
const time = (atMs: number) => new Date(atMs).toISOString().replace('T', ' ').slice(0, 16);

const shell = (
  title: string,
  body: string,
) => `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>${escape(title)}</title><style>
body{font:16px/1.5 system-ui,sans-serif;margin:0;background:#f4f4f1;color:#222}
header{background:#3d4a3e;color:#fff;padding:.7rem 1.5rem}header a{color:#fff}
main{max-width:60rem;margin:1.5rem auto;padding:0 1.5rem}
table{border-collapse:collapse;width:100%;background:#fff}td,th{text-align:left;padding:.45rem .7rem;border-bottom:1px solid #ddd}
section{background:#fff;padding:1rem 1.3rem;margin:1rem 0;border:1px solid #ddd;border-radius:6px}pre{white-space:pre-wrap;font:inherit;margin:.3rem 0}
h3{margin:.8rem 0 0;font-size:1rem}small{color:#555}
</style><header><a href="/">Marrowick Ferries: tickets</a> · a simulated ticket system that ships with Zesty Porch</header><main>${body}</main></html>`;

export function ticketListPage(tickets: readonly Ticket[]): string {
  const rows = tickets.map(
    (t) =>
      `<tr><td><a href="/t/${t.ref}">${t.ref}</a></td><td>${escape(t.title)}</td><td>${t.state}</td><td>${escape(t.requester.name)}</td><td>${escape(t.technician.split('@')[0] ?? '')}</td></tr>`,
  );
  return shell(
    'Tickets',
    `<h1>Tickets</h1><table><tr><th>Ticket</th><th>What</th><th>State</th><th>Requester</th><th>Technician</th></tr>${rows.join('')}</table>`,
  );
}

export function ticketPage(t: Ticket): string {
  const comments = t.comments.map(
    (c) => `<section><small>${time(c.atMs)} · ${escape(c.by)}</small><pre>${escape(c.text)}</pre></section>`,
  );
  const outcomes = t.outcomes.map(
    (
      o,
    ) => `<section><small>${time(o.atMs)} · support session ${escape(o.sessionId.slice(0, 8))}</small><h2>Outcome: ${escape(o.outcome)}, ${o.minutes} min</h2>
      <h3>Note</h3><pre>${escape(o.note)}</pre><h3>What was done</h3><pre>${escape(o.actions)}</pre><h3>Chat</h3><pre>${escape(o.chat || '(nothing)')}</pre><small>Check number ${escape(o.ledgerHead)}</small></section>`,
  );
  return shell(
    t.ref,
    `<h1>${t.ref}: ${escape(t.title)}</h1><p><b>${t.state}</b> · ${escape(t.requester.name)} (${escape(t.requester.address)})${t.asset ? ` · ${escape(t.asset)}${t.assetLabel ? ` (${escape(t.assetLabel)})` : ''}` : ''}</p><section><pre>${escape(t.description)}</pre></section><form method="post" action="/t/${t.ref}/help-now"><button>Get help now</button></form>${comments.join('')}${outcomes.join('')}`,
  );
}
