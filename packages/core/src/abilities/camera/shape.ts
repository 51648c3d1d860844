import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id } from '../../ability/fields.ts';

/** What a camera on the customer's side sees: the thing on the desk. Kept by nobody but as single pictures, each told. */
export const camera = defineShape({
  name: 'camera',
  version: 1,
  since: 4,
  permissions: {
    'see-camera': {
      shortName: 'camera',
      isSensitive: true,
      isNotForMinors: true,
      worksInBrowser: true,
      restsInPrivate: true,
    },
  },
  events: {
    /** This participant began to see what the camera sees, for the first time since they may. */
    'camera/seen': { participantId: id, fact },
    /** A single picture in full size was sent to this participant, who can keep it. */
    'camera/pictureTaken': { participantId: id, width: z.int().min(1), height: z.int().min(1), fact },
  },
  initial: {},
  evolve: {},
  words: (book) => book.camera,
  tell: {
    'camera/seen': {
      technician: (e, { words, nameOf }) => words.technician.seen({ who: nameOf(e.participantId) }),
      customer: (e, { words, technician }) => words.customer.seen({ who: technician(e.participantId) }),
    },
    'camera/pictureTaken': {
      technician: (e, { words, nameOf }) =>
        words.technician.taken({ who: nameOf(e.participantId), width: String(e.width), height: String(e.height) }),
      customer: (e, { words, technician }) => words.customer.taken({ who: technician(e.participantId) }),
    },
  },
  inStory: ['camera/pictureTaken'],
});
