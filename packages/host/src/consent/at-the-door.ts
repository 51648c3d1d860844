import type { LiveConnection } from '@porch/client';
import { isOver, needsCallAnswer, presentAs } from '@porch/core';
import type { DeskFacts } from '../kit.ts';
import { acceptQuestion, callQuestion, type ServicePlace } from './questions.ts';
import type { QuestionQueue } from './question-queue.ts';

/** A customer who came without a page is asked here what the page would have asked. */
export async function askAtTheDoor(parts: {
  readonly connection: LiveConnection;
  readonly questions: QuestionQueue;
  readonly desk: DeskFacts;
  readonly place: ServicePlace;
  readonly personName: string;
  stop(why: string): void;
}): Promise<void> {
  const { connection, questions, desk, place, personName } = parts;
  const { state } = connection;
  if (state.hasAccepted || isOver(state) || presentAs(state, 'page').length) return;
  const isYes = async (question: ReturnType<typeof callQuestion>) => {
    const answer = await questions.inTurn((put) => put(question));
    return answer && answer.what === 'yes';
  };
  if (needsCallAnswer(state)) {
    const called = await isYes(callQuestion(desk.deskName, desk.deskPhone, state.language));
    if (called === undefined) return;
    await connection.command({ type: 'answerCall', answer: called ? 'i-called' : 'they-called' });
    if (!called) return;
  }
  const accepted = await isYes(acceptQuestion(state, desk.deskName, place));
  if (accepted === undefined) return;
  if (!accepted) {
    parts.stop('did not want to begin');
    return;
  }
  if (state.customerName === undefined)
    await connection.command({ type: 'introduceCustomer', name: personName, address: '' });
  await connection.command({ type: 'acceptSession', noticeVersion: desk.noticeVersion });
}
