import { defineKept } from '../cli-ability.ts';

export const keptOneProgram = defineKept({
  name: 'one-program',
  calls: {},
  begin({ connection }) {
    return { status: () => ({ shows: connection.state.slices['one-program'].shows }), close: () => undefined };
  },
  answer: {},
});
