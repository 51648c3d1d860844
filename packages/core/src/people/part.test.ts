import { describe, expect, it } from 'vitest';
import { actionOf } from '../session/decide.ts';
import { commandTypes, type SessionCommand } from '../session/session-commands.ts';
import { allPartActions, DeskPart, Part, partMay, UNKNOWN_PART, whyPartMayNot } from './part.ts';

const mayOf = (part: Part) => allPartActions.filter((action) => partMay(part, action));

describe('the table of parts', () => {
  it('lets each part do this, and nothing else', () => {
    expect(Object.fromEntries(Part.options.map((part) => [part, mayOf(part).join(', ')]))).toMatchInlineSnapshot(`
      {
        "adviser": "leave, give back or take back, watch a picture",
        "coach": "leave, give back or take back, read the desk's own, write an aside, watch a picture",
        "colleague": "leave, give back or take back, say something, read the desk's own, write an aside, ask for a permission, work with files, keep a screenshot, watch a picture, show their own screen",
        "doorstep": "leave, give back or take back, say something, end the session, work with files, keep a screenshot, watch a picture, show a picture, speak for the customer, hold the consent, speak for the computer, open the door",
        "lead": "leave, give back or take back, say something, read the desk's own, write an aside, lead the session, end the session, log the outcome, ask for a permission, work with files, keep a screenshot, watch a picture, show their own screen",
        "page": "leave, give back or take back, say something, end the session, work with files, watch a picture, show a picture, speak for the customer, hold the consent, offer a picture of its own, choose what it shows",
        "recorder": "leave, give back or take back, watch a picture",
      }
    `);
  });

  it('lets whoever is of a part that nobody here knows do nothing, and says why not', () => {
    for (const action of allPartActions) expect(whyPartMayNot(UNKNOWN_PART, action)).toBeDefined();
  });

  it('keeps who is from outside, and who looks on, from all that changes anything', () => {
    for (const part of ['adviser', 'recorder'] as const)
      expect(mayOf(part)).toEqual(['leave', 'give back or take back', 'watch a picture']);
    for (const part of DeskPart.options)
      for (const action of ['speak for the customer', 'hold the consent', 'show a picture'] as const)
        expect(partMay(part, action), part).toBe(false);
  });

  it('has a row for every command that there is', () => {
    for (const type of commandTypes) expect(allPartActions, type).toContain(actionOf({ type } as SessionCommand));
  });
});
