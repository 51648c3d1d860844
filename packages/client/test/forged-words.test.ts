import { newSession, type LedgerEntry, type Participant, type SessionState } from '@porch/core';
import {
  commitmentOf,
  decodeFrame,
  checkWordsChannel,
  decodeWords,
  encodeWords,
  makeKeys,
  MAX_WORD_TRIES,
  PairwiseChannel,
  verificationWords,
  type CheckWordsMessage,
  type ParticipantKeys,
  realClock,
  realRandomness,
} from '@porch/wire';
import { expect, it } from 'vitest';
import { Listeners, TechnicianWords, type LiveConnection, type LiveEvents } from '../src/index.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const TECHNICIAN_SEAT = 1;

/** The service in an enemy's hands: it shows the technician whatever holder it likes, and reads what is said to it. */
class LyingService {
  readonly keys = makeKeys();
  readonly listeners = new Listeners<LiveEvents>();
  readonly told: CheckWordsMessage[] = [];
  #seat = 1;
  #channel: PairwiseChannel | undefined;
  state: SessionState = newSession;

  readonly connection = (() => {
    const listeners = this.listeners;
    const service = this as { state: SessionState };
    return {
      on: listeners.on.bind(listeners),
      get state() {
        return service.state;
      },
      clock: realClock,
      random: realRandomness,
      keys: this.keys,
      participantId: 'technician',
      sessionId: SESSION,
      seat: TECHNICIAN_SEAT,
      entries: [],
      serviceNowMs: 0,
      setPictureTaker: () => undefined,
      watch: () => undefined,
      sendFrame: (bytes: Uint8Array) => {
        if (this.#channel) this.told.push(decodeWords(checkWordsChannel, this.#channel.open(bytes).plain));
        return true;
      },
    } as unknown as LiveConnection;
  })();

  /** From now on this one is the holder. */
  show(holder: ParticipantKeys): { id: string; seat: number } {
    const seat = ++this.#seat;
    const id = `holder ${seat}`;
    const participant: Partial<Participant> = {
      id,
      seat,
      side: 'customer',
      part: 'doorstep',
      isGone: false,
      ...holder,
    };
    const participants = { ...this.state.participants, [id]: participant as Participant };
    this.state = { ...this.state, participants, holderId: id };
    this.#channel = new PairwiseChannel({
      sessionId: SESSION,
      mine: holder,
      mySeat: seat,
      theirAgreeKey: this.keys.agreeKey,
      theirStartId: this.keys.startId,
      theirSeat: TECHNICIAN_SEAT,
      channel: 'check-words',
    });
    this.told.length = 0;
    return { id, seat };
  }
  say(message: CheckWordsMessage): void {
    const bytes = this.#channel?.seal(encodeWords(message));
    if (bytes) this.listeners.emit('frame', { frame: decodeFrame(bytes), bytes });
  }
  nonces(): string[] {
    return this.told.flatMap((m) => (m.type === 'nonce' ? [m.nonce] : []));
  }
}

it('a first false holder that learned the technician’s nonce helps no second one to search for words that fit', () => {
  const service = new LyingService();
  const look = new TechnicianWords(service.connection);
  const me = { id: 'technician', signKey: service.keys.signKey, agreeKey: service.keys.agreeKey };
  // The first false holder: it only wants to know what the technician will answer.
  const scout = makeKeys();
  const first = service.show(scout);
  service.say({ type: 'commit', commitment: commitmentOf({ id: first.id, ...scout }, 'aa'.repeat(32)) });
  const [learned = ''] = service.nonces();
  expect(learned).toHaveLength(64);
  // With it the second one could choose its own nonce so that the words are those the customer's side shows.
  const forger = makeKeys();
  const second = service.show(forger);
  const holder = { id: second.id, signKey: forger.signKey, agreeKey: forger.agreeKey };
  const chosen = 'bb'.repeat(32);
  const wanted = verificationWords(
    {
      sessionId: SESSION,
      holder,
      technician: me,
      holderNonce: chosen,
      technicianNonce: learned,
    },
    'en',
  );
  service.say({ type: 'commit', commitment: commitmentOf(holder, chosen) });
  expect(service.nonces(), 'fresh for each holder').not.toContain(learned);
  service.say({ type: 'reveal', nonce: chosen });
  expect(look.words).toHaveLength(4);
  expect(look.words).not.toEqual(wanted);
  expect(look.tries, 'and both can see that there was another').toBe(2);
  look.close();
});

it('a holder cannot change its commitment, nor ask for a nonce for another one', () => {
  const service = new LyingService();
  const look = new TechnicianWords(service.connection);
  const keys = makeKeys();
  const { id } = service.show(keys);
  const holder = { id, signKey: keys.signKey, agreeKey: keys.agreeKey };
  service.say({ type: 'commit', commitment: commitmentOf(holder, 'aa'.repeat(32)) });
  service.say({ type: 'commit', commitment: commitmentOf(holder, 'bb'.repeat(32)) });
  expect(service.nonces()).toHaveLength(1);
  service.say({ type: 'reveal', nonce: 'bb'.repeat(32) });
  expect(look.words).toEqual([]);
  service.say({ type: 'reveal', nonce: 'aa'.repeat(32) });
  expect(look.words).toHaveLength(4);
  look.close();
});

it('after a few holders there are no more words: a search needs more tries than anybody gets', () => {
  const service = new LyingService();
  const look = new TechnicianWords(service.connection);
  for (let n = 0; n < MAX_WORD_TRIES + 3; n++) {
    const keys = makeKeys();
    const { id } = service.show(keys);
    service.say({ type: 'commit', commitment: commitmentOf({ id, ...keys }, 'aa'.repeat(32)) });
    expect(service.nonces()).toHaveLength(n < MAX_WORD_TRIES ? 1 : 0);
  }
  expect([look.tries, look.words]).toEqual([MAX_WORD_TRIES, []]);
  look.close();
});

it('the words are told in the customer’s language, and in another when they choose it; the exchange is the same', () => {
  const service = new LyingService();
  const look = new TechnicianWords(service.connection);
  const keys = makeKeys();
  const { id } = service.show(keys);
  const holder = { id, signKey: keys.signKey, agreeKey: keys.agreeKey };
  const holderNonce = 'cc'.repeat(32);
  service.say({ type: 'commit', commitment: commitmentOf(holder, holderNonce) });
  const [technicianNonce = ''] = service.nonces();
  service.say({ type: 'reveal', nonce: holderNonce });
  const technician = { id: 'technician', signKey: service.keys.signKey, agreeKey: service.keys.agreeKey };
  const exchange = { sessionId: SESSION, holder, technician, holderNonce, technicianNonce };
  expect(look.words).toEqual(verificationWords(exchange, 'en'));
  const told: (readonly string[])[] = [];
  look.listeners.on('words', (words) => void told.push(words));
  for (const language of ['no', 'de'] as const) {
    service.state = { ...service.state, language };
    service.listeners.emit('entry', {
      seq: 1,
      atMs: 0,
      hash: '',
      event: { type: 'customerIntroduced', by: id, identity: 'said-so-themselves', language },
    } as unknown as LedgerEntry);
    expect(look.words).toEqual(verificationWords(exchange, language));
  }
  expect(told).toEqual([verificationWords(exchange, 'no'), verificationWords(exchange, 'de')]);
  expect(look.tries, 'it was one exchange').toBe(1);
  look.close();
});
