import { w } from '../../words/index.ts';
import type { ConsoleAbility } from '../console-ability.ts';
import InputNote from './InputNote.vue';
import { inputTool } from './tool.ts';
import WorkButton from './WorkButton.vue';

export const input: ConsoleAbility = {
  name: 'input',
  tool: inputTool,
  shelf: {
    group: 'show',
    label: () => w.value.input.work,
    isShown: (session) => session.tool(inputTool).mayWork.value,
    button: WorkButton,
  },
  note: InputNote,
};
