import { NeverDeliverable } from '../../module/parcels.ts';

const PATIENCE_MS = 8_000;

/** Text messages over HTTP: the profile in docs/ways-in.md. */
export const makeTextCarrier =
  (textsUrl: string, textsKey: string) =>
  async (message: { to: string; text: string; reportRef: string }): Promise<void> => {
    let answer: Response;
    try {
      answer = await fetch(`${textsUrl}/messages`, {
        method: 'POST',
        headers: { authorization: `Bearer ${textsKey}`, 'content-type': 'application/json' },
        body: JSON.stringify(message),
        signal: AbortSignal.timeout(PATIENCE_MS),
      });
    } catch (cause) {
      throw new Error('the text gateway does not answer', { cause });
    }
    if (answer.ok) return;
    if (answer.status >= 500 || answer.status === 429)
      throw new Error(`the text gateway answered with status ${answer.status}`);
    throw new NeverDeliverable(`the text gateway refused it: ${(await answer.text()).slice(0, 120)}`);
  };
