import type { Language } from '@porch/core';
import { speechOf } from '@porch/words';
import { host } from '@porch/words/host';
import { hints } from '../../consent/questions.ts';
import { HOME_SHOWN, type FoundFile } from '../../ports/files-port.ts';
import type { Answer, Question } from '../../ports/question.ts';
import { shortened } from '../../shortened.ts';

/** More than these are told as a number: a question has to be read. */
export const MOST_CHOICES = 8;

export interface OfferedHere {
  readonly name: string;
  readonly sizeBytes: number;
  readonly isFolder: boolean;
  readonly count: number;
  /** Something of this name lies there already. */
  readonly isThere: boolean;
}

const wordsOf = (language: Language) => {
  const { kernel, files } = host[language];
  return {
    kernel,
    w: files,
    speech: speechOf(language),
    answers: { yes: kernel.yes, no: kernel.no, ...hints(kernel) },
  };
};

/** For one file or folder: where the name is taken, the person says what becomes of what has it. */
export function questionForOffer(technician: string, file: OfferedHere, language: Language): Question {
  const { w, speech, answers } = wordsOf(language);
  const about = { name: shortened(file.name), size: speech.bytes(file.sizeBytes) };
  return {
    title: file.isFolder ? w.givesFolder({ name: technician }) : w.givesFile({ name: technician }),
    lines: [
      file.isFolder ? w.takeFolder({ ...about, count: file.count }) : w.take(about),
      w.intoDownloads,
      ...(file.isThere ? [w.isThere] : []),
    ],
    ...answers,
    ...(file.isThere
      ? {
          isOneOf: true as const,
          choices: [
            { label: w.keepBoth, isOn: true },
            { label: w.replace, isOn: false },
          ],
        }
      : {}),
  };
}

/** For several at once: each can be left out, unless they are too many to be read. */
export function questionForSeveral(technician: string, files: readonly OfferedHere[], language: Language): Question {
  const { w, speech, answers } = wordsOf(language);
  const size = speech.bytes(files.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0));
  const isListed = files.length <= MOST_CHOICES;
  const label = ({ name, sizeBytes, isFolder, count }: OfferedHere) => {
    const about = { name: shortened(name), size: speech.bytes(sizeBytes) };
    return isFolder ? w.oneFolder({ ...about, count }) : w.oneFile(about);
  };
  const names = speech.list(files.slice(0, MOST_CHOICES).map(({ name }) => shortened(name)));
  return {
    title: w.givesSeveral({ name: technician, count: files.length }),
    lines: [
      w.takeSeveral({ count: files.length, size }),
      ...(isListed ? [] : [w.amongThem({ names })]),
      w.allIntoDownloads,
    ],
    ...answers,
    choices: [
      ...(isListed ? files.map((file) => ({ label: label(file), isOn: true })) : []),
      ...(files.some(({ isThere }) => isThere) ? [{ label: w.replaceAll, isOn: false }] : []),
    ],
  };
}

/** What the answer to one of the two above says of each; undefined: it does not come. */
export function chosenOf(
  answer: Answer | undefined,
  asked: readonly { readonly isThere: boolean }[],
): ('keep-both' | 'replace' | undefined)[] {
  if (answer?.what !== 'yes') return asked.map(() => undefined);
  const { choices } = answer;
  if (asked.length === 1) return [choices[1] ? 'replace' : 'keep-both'];
  const isListed = asked.length <= MOST_CHOICES;
  const how = asked.some(({ isThere }) => isThere) && choices.at(-1) ? 'replace' : 'keep-both';
  return asked.map((_, i) => (isListed && !choices[i] ? undefined : how));
}

export function questionForFetch(technician: string, found: FoundFile, language: Language): Question {
  const { w, speech, answers } = wordsOf(language);
  const about = { path: found.shownPath, size: speech.bytes(found.sizeBytes) };
  if (found.isFolder)
    return {
      title: w.wantsFolder({ name: technician }),
      lines: [
        w.fetchFolder({ ...about, count: found.count ?? 0 }),
        ...(found.leftOut ? [w.leftOut({ count: found.leftOut })] : []),
      ],
      ...answers,
    };
  return {
    title: w.wantsFile({ name: technician }),
    lines: [w.fetch(about)],
    ...answers,
    choices: [{ label: w.anyInFolder, isOn: false }],
  };
}

export function questionForNames(technician: string, shownPath: string, language: Language): Question {
  const { w, answers } = wordsOf(language);
  return {
    title: w.wantsNames({ name: technician }),
    lines: [shownPath === HOME_SHOWN ? w.namesOfHome : w.names({ path: shownPath }), w.namesOnly],
    ...answers,
    choices: [{ label: w.namesDeep, isOn: false }],
  };
}
