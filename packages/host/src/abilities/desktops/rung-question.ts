import { host } from '@porch/words/host';
import type { Language } from '@porch/core';
import { hints } from '../../consent/questions.ts';
import type { Question } from '../../ports/question.ts';

/** What somebody at another desktop of the same computer is asked before anything of theirs is told to anybody. */
export function rungQuestion(
  { technicianName, deskName, customerName }: { technicianName: string; deskName: string; customerName: string },
  language: Language,
): Question {
  const { desktops: w, kernel } = host[language];
  return {
    title: w.title,
    lines: [
      w.asked({ who: technicianName || kernel.technician, desk: deskName }),
      customerName ? w.about({ customer: customerName }) : w.nobody,
      w.nothing,
    ],
    ...{ yes: w.yes, no: w.no, ...hints(kernel) },
  };
}
