import { SessionCommand } from '@porch/core';
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { decodeFrame } from '../frame.ts';
import { ClientMessage, isLaterClientMessage, OtherHello } from './client-messages.ts';
import { isLaterServerMessage, PROTOCOL_VERSION, ServerMessage } from './live-messages.ts';

/* Frozen copies of what released versions said: today's programs read all of it, or say why not. */
interface Frozen {
  readonly version: number;
  readonly clientMessages: readonly { readonly type: string }[];
  readonly commands: readonly { readonly type: string }[];
  readonly serverMessages: readonly { readonly type: string }[];
  readonly frames: Readonly<Record<string, string>>;
}
const frozen = (version: number) =>
  JSON.parse(readFileSync(new URL(`../../fixtures/protocol-${version}.json`, import.meta.url), 'utf8')) as Frozen;

describe('protocol 3', () => {
  const then = frozen(3);
  it('is met in its first word: a program of it hears that it is of another version', () => {
    const [hello] = then.clientMessages;
    expect(OtherHello.parse(hello).version).toBe(3);
    expect(PROTOCOL_VERSION).not.toBe(3);
  });
  it('is read, whatever its service and its programs said', () => {
    for (const message of then.clientMessages)
      expect(ClientMessage.safeParse(message).success, message.type).toBe(true);
    for (const command of then.commands) expect(SessionCommand.safeParse(command).data, command.type).toEqual(command);
    // What is not read any longer is passed over; nothing that is read means something else.
    for (const message of then.serverMessages) expect(message).toMatchObject(ServerMessage.parse(message));
  });
  it('has the same header and the same numbers for what is still said', () => {
    const { look, ...others } = then.frames;
    for (const [channel, hex] of Object.entries(others))
      expect(decodeFrame(Buffer.from(hex, 'hex'))).toMatchObject({ channel, display: 2, senderSeat: 3, counter: 7n });
    // What four channels share now has a number of its own no longer: nobody gets it again.
    expect(() => decodeFrame(Buffer.from(look ?? '', 'hex'))).toThrow(/does not match/);
  });
});

describe('whatever a later release says', () => {
  it('is passed over: fields that are not known, and messages of types that are not', () => {
    for (const message of frozen(3).serverMessages) {
      expect(ServerMessage.parse({ ...message, later: { of: ['any', 'shape'] } })).toEqual(
        ServerMessage.parse(message),
      );
      expect(isLaterServerMessage(message)).toBe(false);
    }
    expect(isLaterServerMessage({ type: 'weather', isFine: true })).toBe(true);
    expect(isLaterClientMessage({ type: 'weather' })).toBe(true);
    expect(isLaterClientMessage({ type: 'beat', sentAtMs: 'x' })).toBe(false);
    for (const other of [null, 4, 'hello', {}, { type: 4 }, { type: 'x'.repeat(41) }])
      expect(isLaterClientMessage(other)).toBe(false);
  });
});
