import Fastify, { type FastifyInstance } from 'fastify';
import { z } from 'zod';
import { mailModes, type MailServer } from './mail-server.ts';
import { ferryPage } from './ferry-page.ts';
import { postPage } from './post-page.ts';
import { plainNumber, textModes, type TextGateway } from './text-gateway.ts';

const Modes = z.strictObject({
  mail: z.enum(mailModes as [string, ...string[]]).optional(),
  texts: z.enum(textModes as [string, ...string[]]).optional(),
});

/** The customers' mailboxes and telephones, to look at, and the switches that make mail and texts go wrong. */
export function buildPostApp(mail: MailServer, texts: TextGateway, deskUrl?: string): FastifyInstance {
  const app = Fastify({ logger: false, forceCloseConnections: true });
  app.addContentTypeParser('application/x-www-form-urlencoded', { parseAs: 'string' }, (_request, body, done) =>
    done(null, Object.fromEntries(new URLSearchParams(String(body)))),
  );
  texts.addRoutes(app);
  app.get('/', (_request, reply) => reply.type('text/html').send(postPage(mail, texts)));
  app.get('/ferry', (_request, reply) => reply.type('text/html').send(ferryPage(deskUrl ?? '')));
  app.get('/mails', (request) => {
    const to = z.object({ to: z.string().optional() }).parse(request.query).to?.toLowerCase();
    return mail.mails.filter((m) => !to || m.to === to);
  });
  app.get('/texts', (request) => {
    const to = z.object({ to: z.string().optional() }).parse(request.query).to;
    return texts.texts.filter((t) => !to || t.to === plainNumber(to));
  });
  app.post('/modes', async (request, reply) => {
    const modes = Modes.safeParse(request.body);
    if (!modes.success)
      return reply.code(400).send({ message: `mail: ${mailModes.join(', ')}; texts: ${textModes.join(', ')}` });
    if (modes.data.mail) await mail.setMode(modes.data.mail as MailServer['mode']);
    if (modes.data.texts) texts.mode = modes.data.texts as TextGateway['mode'];
    if (request.headers['content-type']?.includes('urlencoded')) return reply.redirect('/');
    return { mail: mail.mode, texts: texts.mode };
  });
  return app;
}
