import { customers } from './marrowick.ts';

export interface PostPorts {
  readonly http: number;
  readonly smtp: number;
  /** Where the service takes reports about its mails. */
  readonly reports: number;
}

/** What the service is told of the stand-in mail server and text gateway. */
export const postSettings = (ports: PostPorts, textsKeyFile: string) => ({
  PORCH_SMTP_URL: `smtp://127.0.0.1:${ports.smtp}`,
  PORCH_BOUNCE_DOMAIN: 'returns.marrowick.example',
  PORCH_BOUNCE_PORT: String(ports.reports),
  PORCH_TEXTS_URL: `http://127.0.0.1:${ports.http}`,
  PORCH_TEXTS_KEY_FILE: textsKeyFile,
  // The ferry line's staff pages carry the help box.
  PORCH_EMBED_ORIGINS: `http://127.0.0.1:${ports.http}`,
});

/** What the stand-ins are told of the service. */
export const postOfficeSettings = (ports: PostPorts, textsKeyFile: string, servicePort: number) => ({
  POST_PORT: String(ports.http),
  POST_SMTP_PORT: String(ports.smtp),
  POST_REPORTS_PORT: String(ports.reports),
  POST_TEXTS_KEY_FILE: textsKeyFile,
  POST_TEXTS_WEBHOOK_URL: `http://127.0.0.1:${servicePort}/api/webhooks/texts`,
  POST_DESK_URL: `http://127.0.0.1:${servicePort}`,
  POST_PEOPLE: customers.map((c) => c.address).join(','),
});

/** What the service is told of the stand-in directory. */
export const directorySettings = (port: number, secretFile: string) => ({
  PORCH_DIRECTORY_URL: `http://127.0.0.1:${port}`,
  PORCH_DIRECTORY_SECRET_FILE: secretFile,
});
export const directoryAppSettings = (port: number, secretFile: string) => ({
  DIRECTORY_PORT: String(port),
  DIRECTORY_SECRET_FILE: secretFile,
  DIRECTORY_PEOPLE: customers.map((c) => `${c.name} <${c.address}>`).join(','),
});
