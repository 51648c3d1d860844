import { mailModes, type MailServer } from './mail-server.ts';
import { textModes, type TextGateway } from './text-gateway.ts';

const escape = (text: string) => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
const withLinks = (text: string) => escape(text).replace(/https?:\/\/[^\s<]+/g, (url) => `<a href="${url}">${url}</a>`);
const time = (atMs: number) => new Date(atMs).toISOString().replace('T', ' ').slice(0, 19);
const meanings: Record<string, string> = {
  well: 'delivers',
  refuse: 'refuses at once',
  bounce: 'takes it and sends it back',
  delay: 'delivers late',
  down: 'does not answer',
};

const switches = (what: 'mail' | 'texts', modes: readonly string[], now: string) =>
  `<form method="post" action="/modes">${modes
    .map(
      (m) => `<button name="${what}" value="${m}"${m === now ? ' disabled' : ''}>${escape(meanings[m] ?? m)}</button>`,
    )
    .join(' ')}</form>`;

export function postPage(mail: MailServer, texts: TextGateway): string {
  const mails = mail.mails.map(
    (m) =>
      `<section><small>${time(m.atMs)} · to ${escape(m.to)} · from ${escape(m.from)}</small><h3>${escape(m.subject)}</h3><pre>${withLinks(m.text)}</pre>${m.attachments.map((a) => `<details><summary>${escape(a.name || a.type)}</summary><pre>${escape(a.content)}</pre></details>`).join('')}</section>`,
  );
  const messages = texts.texts.map(
    (t) => `<section><small>${time(t.atMs)} · to ${escape(t.to)}</small><pre>${withLinks(t.text)}</pre></section>`,
  );
  return `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>Mailboxes and telephones</title><style>
body{font:16px/1.5 system-ui,sans-serif;margin:0;background:#f4f4f1;color:#222}
header{background:#4a3d46;color:#fff;padding:.7rem 1.5rem}
main{max-width:60rem;margin:1.5rem auto;padding:0 1.5rem;display:grid;gap:1rem;grid-template-columns:repeat(auto-fit,minmax(22rem,1fr))}
section{background:#fff;padding:.7rem 1.1rem;margin:.7rem 0;border:1px solid #ddd;border-radius:6px;overflow-wrap:anywhere}pre{white-space:pre-wrap;font:inherit;margin:.3rem 0}h3{margin:.2rem 0}small{color:#555}
</style><header>Mailboxes and telephones of Marrowick Ferries · simulated, ships with Zesty Porch</header><main>
<div><h2>Mail</h2><p>The mail server ${escape(meanings[mail.mode] ?? '')}.</p>${switches('mail', mailModes, mail.mode)}${mails.join('') || '<p>No mail yet.</p>'}</div>
<div><h2>Text messages</h2><p>The gateway ${escape(meanings[texts.mode] ?? '')}.</p>${switches('texts', textModes, texts.mode)}${messages.join('') || '<p>No messages yet.</p>'}</div></main></html>`;
}
