import { firstName } from '@porch/core';
import { w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';

/** Whom something of mine is shown to. */
export const customersName = ({ state }: ConsoleSession): string =>
  state.value.customerName ? firstName(state.value.customerName) : w.value.speaking.customer;
