/** What is said when a password was wrong as often as it may be. */
export const WRONG_PASSWORD = ['the password was wrong three times', 'wrong-password'] as const;
