export const systemReportCalls = {
  systemReport: {},
} as const;
