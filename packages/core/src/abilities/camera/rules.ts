import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { camera } from './shape.ts';

const side = z.int().min(1).max(65_535);

export const cameraRules = defineRules(camera, {
  commands: {
    /** Whoever holds the consent says who began to look. */
    'camera/tellSeen': { participantId: id, fact },
    'camera/tellPictureTaken': { participantId: id, width: side, height: side, fact },
  },
  actions: { 'camera/tellSeen': 'hold the consent', 'camera/tellPictureTaken': 'hold the consent' },
  decide: {
    'camera/tellSeen': (_slice, { participantId, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'a camera had been seen' };
      return [{ type: 'camera/seen', by: me.id, participantId, fact: number }];
    },
    'camera/tellPictureTaken': (_slice, { participantId, width, height, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'a picture had been taken by the camera' };
      return [{ type: 'camera/pictureTaken', by: me.id, participantId, width, height, fact: number }];
    },
  },
});
