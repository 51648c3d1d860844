/** Somebody who has an account on a stand-in computer. */
export interface ComputerPerson {
  readonly login: string;
  readonly uid: number;
  readonly password: string;
  /** Who may become administrator with their own password. */
  readonly isAdministrator?: boolean;
  /** A folder of this machine in which their files lie, and outlast the computer. */
  readonly home?: string;
}

export interface ComputerOptions {
  readonly name: string;
  /** Empty, and its own: sockets and the place where its disk is mounted. */
  readonly folder: string;
  readonly people: readonly ComputerPerson[];
  /** Who is signed in by itself at its first start. */
  readonly signsIn?: string;
  /** Ports of this machine that are reached there under the same number. */
  readonly reaches?: readonly number[];
  /** Files and folders of this machine that are seen there, read only, and where. */
  readonly shows?: readonly { readonly from: string; readonly as: string }[];
  /** What passes connections on from there, as it was built. */
  readonly bridge: string;
  readonly width?: number;
  readonly height?: number;
}
