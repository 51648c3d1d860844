import { consoleAbilities } from '../../abilities/index.ts';
import { inputTool } from '../../abilities/input/tool.ts';
import type { TechnicianSession } from './technician-session.ts';
import { w } from '../../words/index.ts';

/** Something that can be done in a session, as the finder shows it. */
export interface SessionAct {
  readonly name: string;
  readonly label: string;
  /** Pressed after the key of this page. */
  readonly letter?: string | undefined;
  run(): void;
}

/** Everything that can be done just now: what is on the shelf, the boxes to write in, the ledger. */
export function sessionActs(
  session: TechnicianSession,
  does: {
    show(name: string): void;
    focus(box: 'chat' | 'aside'): void;
    ledger(): void;
    readonly isLive: boolean;
  },
): SessionAct[] {
  const input = session.tool(inputTool);
  const work: SessionAct[] = input.mayWork.value
    ? [
        {
          ...{ name: 'work', letter: 'W' },
          label: input.toggleLabel.value,
          run: input.toggle,
        },
      ]
    : [];
  const shelf = consoleAbilities.flatMap(({ name, shelf: item }) =>
    item?.panel && item.isShown(session)
      ? [{ name, label: item.label(), letter: item.letter, run: () => does.show(name) }]
      : [],
  );
  const { session: words, writing } = w.value;
  return [
    ...work,
    ...shelf,
    ...(does.isLive
      ? [{ name: 'handover', label: words.handOver, letter: 'H', run: () => does.show('handover') }]
      : []),
    { name: 'look-up', label: w.value.lookUp.title, letter: 'U', run: () => does.show('look-up') },
    { name: 'message', label: writing.message, letter: 'M', run: () => does.focus('chat') },
    { name: 'aside', label: writing.asideLabel, letter: 'A', run: () => does.focus('aside') },
    { name: 'ledger', label: words.ledger, letter: 'L', run: () => does.ledger() },
  ];
}
