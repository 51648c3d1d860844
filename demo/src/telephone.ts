import { readCode } from '@porch/core';
import Fastify, { type FastifyInstance } from 'fastify';
import type { ScriptedCustomer } from './scripted-customer.ts';

/** What they say when they are asked for the passphrase of their device. */
const passphraseOf = (customer: ScriptedCustomer) =>
  customer.passphrase
    ? `<p>${customer.character.name} says: “The passphrase for a visit is <b>${customer.passphrase}</b>.”</p>`
    : '';

/** A stand-in for the telephone: read a code to a customer, and they type it. Says so on its page. */
export function buildTelephone(customers: readonly ScriptedCustomer[], tell: (line: string) => void): FastifyInstance {
  const app = Fastify({ logger: false, forceCloseConnections: true });
  app.get('/', (_request, reply) =>
    reply.type('text/html')
      .send(`<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Telephone</title>
<style>body{font:18px/1.5 system-ui,sans-serif;max-width:34rem;margin:3rem auto;padding:0 1rem}input,button,select{font:inherit;padding:.4rem .6rem}</style>
<h1>Telephone (simulated)</h1><p>You are on the phone with a customer of Marrowick Ferries. Read them the code that the console shows.</p>
<form method="get" action="/read"><label>To <select name="to">${customers.map((c, i) => `<option value="${i}">${c.character.name}</option>`).join('')}</select></label>
<label>Code <input name="code" inputmode="numeric" autocomplete="off" size="10"></label> <button>Read it to them</button></form>
${customers.map(passphraseOf).join('')}</html>`),
  );
  app.get<{ Querystring: { to?: string; code?: string } }>('/read', async (request, reply) => {
    const customer = customers[Number(request.query.to)];
    const reading = readCode(request.query.code ?? '');
    const say = (text: string) =>
      reply
        .type('text/html')
        .send(
          `<!doctype html><html lang="en"><meta charset="utf-8"><title>Telephone</title><body style="font:18px/1.5 system-ui;max-width:34rem;margin:3rem auto"><p>${text}</p><p><a href="/">Back</a></p></html>`,
        );
    if (!customer || reading.kind !== 'code') return say('“I typed it, but the page says one of the digits is wrong.”');
    try {
      tell(`  ${customer.character.name} types the code they were told`);
      await customer.join({ code: reading.digits });
      return await say('“I have typed it. I see your name now.”');
    } catch (error) {
      return say(`“The page says: ${String((error as Error).message)}.”`);
    }
  });
  return app;
}
