import { defineShape } from '../../ability/ability-shape.ts';
import { count, fact, id, shortText } from '../../ability/fields.ts';
import { german } from './words/de.ts';
import { english } from './words/en.ts';
import { norwegian } from './words/no.ts';

const counted = (n: number, one: string, many = `${one}s`) => `${n} ${n === 1 ? one : many}`;

/** The customer's mouse and keyboard, used by a technician. */
export const input = defineShape({
  name: 'input',
  version: 1,
  permissions: {
    'control-input': {
      label: 'Use mouse and keyboard',
      shortName: 'work',
      needs: 'view-screen',
      isUsual: true,
      canStand: true,
      isHandsOn: true,
      wasInFirstRelease: true,
      undone: 'every key and button that is held is let go',
    },
  },
  events: {
    controlStarted: { participantId: id, fact },
    controlStopped: { participantId: id, why: shortText, clicks: count, keys: count, fact },
  },
  initial: {},
  evolve: {},
  tell: {
    controlStarted: {
      technician: (e, { nameOf }) => `${nameOf(e.participantId)} began to use mouse and keyboard`,
      customer: (e, { technician }) => ['controlStarted', { who: technician(e.participantId) }],
    },
    controlStopped: {
      technician: (e, { nameOf }) =>
        `${nameOf(e.participantId)} stopped using mouse and keyboard: ${e.why} (${counted(e.clicks, 'click')}, ${counted(e.keys, 'key press', 'key presses')})`,
      customer: (e, { technician }) => [
        'controlStopped',
        { who: technician(e.participantId), clicks: e.clicks, keys: e.keys },
      ],
    },
  },
  words: { en: english, no: norwegian, de: german },
  inStory: ['controlStopped'],
});
