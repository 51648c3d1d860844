import { Listeners, SealedLine, type LiveConnection, type LiveEvents, type ShownMark } from '@porch/client';
import { newSession, type Permission, type SessionCommand, type SessionState } from '@porch/core';
import { participantOf } from '@porch/testkit/participant';
import {
  encodeWords,
  makeKeys,
  PairwiseChannel,
  pictureChannel,
  decodeFrame,
  realClock,
  realRandomness,
} from '@porch/wire';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Host } from '@porch/host';
import { pageHost } from './page-host.ts';
import { PageCamera } from './page-camera.ts';
import { PageVoice } from './page-voice.ts';
import { PageShown } from './page-shown.ts';

/* What a page lets be seen: by its own grants and nobody else's word. */
const SESSION = '00000000-0000-4000-8000-000000000001';
const [PIM_SEAT, MY_SEAT] = [1, 0];
const [pimKeys, myKeys] = [makeKeys(), makeKeys()];
const pim = participantOf('pim', PIM_SEAT, 'lead', { keys: pimKeys });

class Page {
  readonly commands: SessionCommand[] = [];
  readonly troubles: string[] = [];
  watchers: readonly { seat: number }[] = [];
  looks = 0;
  marks: readonly ShownMark[] = [];
  endings = 0;
  serviceRefuses = false;
  readonly host: Host;
  readonly connection: LiveConnection;
  readonly #listeners = new Listeners<LiveEvents>();
  readonly #drawing = new PairwiseChannel({ ...this.#technicianSide(), channel: 'drawing' });
  readonly #looking = new PairwiseChannel({ ...this.#technicianSide(), channel: 'picture' });

  constructor() {
    const me = participantOf('me', MY_SEAT, 'doorstep', { keys: myKeys });
    const permissions: readonly Permission[] = ['view-screen', 'draw-on-screen'];
    const state: SessionState = {
      ...newSession,
      hasAccepted: true,
      holderId: 'me',
      participants: { pim, me: { ...me, part: 'page' } },
      asks: { ask: { id: 'ask', participantId: 'pim', permissions, expiresAtMs: Infinity } },
    };
    this.connection = {
      sessionId: SESSION,
      participantId: 'me',
      keys: myKeys,
      seat: MY_SEAT,
      state,
      status: 'live',
      viewers: [],
      serviceNowMs: 1_000,
      clock: realClock,
      random: realRandomness,
      on: this.#listeners.on.bind(this.#listeners),
      setPictureTaker: () => undefined,
      watch: () => undefined,
      handled: () => undefined,
      sendFrame: () => true,
      sendFresh: () => true,
      sendBulk: () => true,
      command: (command: SessionCommand) => {
        if (this.serviceRefuses) return Promise.reject(new Error('the service says no'));
        this.commands.push(command);
        return Promise.resolve();
      },
    } as unknown as LiveConnection;
    this.host = pageHost(this.connection, new SealedLine(this.connection, pictureChannel), {
      picture: {
        setWatchers: (watchers) => (this.watchers = watchers),
        take: () => this.looks++,
        relay: () => undefined,
      },
      showMarks: (marks) => (this.marks = marks),
      onOwnMark: () => () => undefined,
      voice: new PageVoice(),
      camera: new PageCamera(),
      shown: new PageShown(),
      onNobodyMayLook: () => this.endings++,
      trouble: (what) => this.troubles.push(what),
    });
  }

  /** The service says that somebody looks: true or not. */
  serviceSaysThatPimLooks(): void {
    this.connection.viewers = [{ seat: PIM_SEAT, displays: [0] }];
    this.#listeners.emit('viewers', this.connection.viewers as LiveEvents['viewers']);
  }
  change(state: Partial<SessionState>): void {
    Object.assign(this.connection, { state: { ...this.connection.state, ...state } });
    this.#listeners.emit('entry', undefined as never);
  }
  pimDraws(): void {
    const mark = {
      kind: 'box',
      points: [
        { x: 0.1, y: 0.1 },
        { x: 0.3, y: 0.3 },
      ],
    };
    this.#hear(this.#drawing.seal(encodeWords({ type: 'mark', mark }), 0, 1));
  }
  pimAsksAbout(): void {
    this.#hear(this.#looking.seal(encodeWords({ type: 'needKey' }), 0, 1));
  }

  #hear(bytes: Uint8Array): void {
    this.#listeners.emit('frame', { frame: decodeFrame(bytes), bytes });
  }
  #technicianSide() {
    return {
      sessionId: SESSION,
      mine: pimKeys,
      mySeat: PIM_SEAT,
      theirAgreeKey: myKeys.agreeKey,
      theirStartId: myKeys.startId,
      theirSeat: MY_SEAT,
    };
  }
}

describe('a page that shows something', () => {
  let page: Page;
  beforeEach(() => {
    vi.stubGlobal('location', { host: 'help.marrowick.example' });
    page = new Page();
    page.serviceSaysThatPimLooks();
  });
  afterEach(async () => {
    await page.host.close();
    page.host.end();
    vi.unstubAllGlobals();
  });

  it('gives nobody anything whom the service only says to look', () => {
    page.pimAsksAbout();
    page.pimDraws();
    expect([page.watchers, page.looks, page.marks, page.host.holdsNothing]).toEqual([[], 0, [], true]);
  });

  it('grants exactly what was said yes to, and the picture and what is said about it with it', async () => {
    await page.host.allow('ask', ['view-screen']);
    expect(page.commands).toMatchObject([
      { type: 'grantAsk', askId: 'ask', grants: [{ statement: expect.stringContaining('view-screen') }] },
    ]);
    expect(page.watchers).toMatchObject([{ seat: PIM_SEAT }]);
    page.pimAsksAbout();
    page.pimDraws();
    expect([page.looks, page.marks]).toEqual([1, []]);
  });

  it('holds nothing that the service does not take', async () => {
    page.serviceRefuses = true;
    await expect(page.host.allow('ask', ['view-screen'])).rejects.toThrow('the service says no');
    expect([page.watchers, page.host.holdsNothing]).toEqual([[], true]);
  });

  it('shows marks with leave, and takes them away with it', async () => {
    await page.host.allow('ask', ['view-screen', 'draw-on-screen']);
    page.pimDraws();
    expect(page.marks).toMatchObject([{ seat: PIM_SEAT, mark: { kind: 'box' } }]);
    page.change({ standings: { pim: { 'draw-on-screen': { name: 'takenBack' } } } } as unknown as SessionState);
    expect(page.marks).toEqual([]);
    expect(page.watchers, 'seeing stays').toMatchObject([{ seat: PIM_SEAT }]);
  });

  it('shows nothing in a private moment, and goes on after it', async () => {
    await page.host.allow('ask', ['view-screen']);
    const { slices } = page.connection.state;
    page.change({ slices: { ...slices, presence: { ...slices.presence, privateAt: ['me'] } } });
    expect(page.watchers).toEqual([]);
    page.change({ slices });
    expect(page.watchers).toMatchObject([{ seat: PIM_SEAT }]);
    expect(page.endings, 'what is captured goes on').toBe(0);
  });

  it.each<[string, (page: Page) => void]>([
    ['Stop', ({ host }) => host.giveUp()],
    [
      'the technician left',
      (p) => p.change({ participants: { ...p.connection.state.participants, pim: { ...pim, isGone: true } } }),
    ],
    [
      'the grant was taken back',
      (p) => p.change({ standings: { pim: { 'view-screen': { name: 'takenBack' } } } } as unknown as SessionState),
    ],
  ])('ends the capture when nobody may look any longer: %s', async (_what, happen) => {
    await page.host.allow('ask', ['view-screen']);
    happen(page);
    page.pimAsksAbout();
    expect([page.watchers, page.looks, page.endings, page.host.holdsNothing]).toEqual([[], 0, 1, true]);
  });
});
