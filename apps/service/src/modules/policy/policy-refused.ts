/** What somebody wanted of the policy cannot be; the message says why and what to do. */
export class PolicyRefused extends Error {
  override readonly name = 'PolicyRefused';
}
