/** Accounts of people begin here; those of services do not sign in (Debian policy 9.2.2). */
export const FIRST_PERSON = 1_000;
