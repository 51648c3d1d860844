import { firstName, type SessionState } from '@porch/core';
import { w } from './words/index.ts';

/** What the customer is called in a sentence to their technician. */
export const customersName = ({ customerName }: SessionState): string =>
  customerName === undefined ? w.value.writing.theCustomer : firstName(customerName);
