import { defineRules } from '../../ability/ability-rules.ts';
import { refuse } from '../../decision.ts';
import { PageSource, picture } from './shape.ts';

export const pictureRules = defineRules(picture, {
  commands: { chooseSource: { what: PageSource } },
  actions: { chooseSource: 'choose what it shows' },
  decide: {
    chooseSource: (_slice, c, me, { holderId }) => {
      if (holderId !== me.id) return refuse('NOT_THE_CONSENT_HOLDER');
      return [{ type: 'sourceChosen', by: me.id, what: c.what }];
    },
  },
});
