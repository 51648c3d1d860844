import type { EntityManager } from 'typeorm';
import type { SessionMoment } from '../../module/open-session.ts';
import { CommandAnswerEntity, type CommandAnswerRow } from './session-tables.ts';

/** Answers are kept so that what is sent again is not done again; of those that wrote nothing, no more than these. */
const MAX_KEPT_EMPTY_ANSWERS = 500;

/** By the sender's id alone: a program that started again is another participant, and sends the same again. */
export const answerTo = (tx: EntityManager, sessionId: string, commandId: string): Promise<CommandAnswerRow | null> =>
  tx.getRepository(CommandAnswerEntity).findOneBy({ sessionId, commandId });

/** `refused`: the code, or null when it was accepted. */
export async function keepAnswer(
  tx: EntityManager,
  sessionId: string,
  answer: { readonly sender: string; readonly commandId: string },
  refused: string | null,
): Promise<void> {
  await tx.getRepository(CommandAnswerEntity).insert({ sessionId, ...answer, refused });
}

/** One that wrote nothing may be decided again: whoever asks for it without end fills no table. */
export async function hasRoomForEmptyAnswer(tx: EntityManager, { id, seq }: SessionMoment): Promise<boolean> {
  const kept = await tx.getRepository(CommandAnswerEntity).countBy({ sessionId: id });
  return kept < seq + MAX_KEPT_EMPTY_ANSWERS;
}
