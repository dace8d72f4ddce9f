import { z } from 'zod';

/** What both processes of the server read from their environment. Secrets come this way and are never logged. */
const environmentSchema = z.object({
  CELLAR_DATABASE_URL: z.url(),
  CELLAR_LINK_ADDRESS: z.url(),
  CELLAR_LINK_TOKEN: z.string().min(16),
  /** Folder of this installation: its key, and what is made before it goes onto a rack that is not mounted. */
  CELLAR_DATA: z.string().min(1),
  /** The socket on which the work process takes orders from the server. */
  CELLAR_WORK_SOCKET: z.string().min(1),
  CELLAR_PORT: z.coerce.number().int().default(4680),
  /** Where other computers are listened to, over TLS, once the house wants that; 0 for any that is free. */
  CELLAR_TLS_PORT: z.coerce.number().int().default(0),
  /** Where customers’ own phones find the page for their password; 0 for any that is free. */
  CELLAR_DESK_PORT: z.coerce.number().int().default(0),
  /** What the first visit asks for; unset where nobody may make one. */
  CELLAR_SET_UP_CODE: z.string().min(12).optional(),
  /** How long a backup waits for a device that left its cable or locked itself, in ms; its password stays in memory meanwhile. */
  CELLAR_WAIT_FOR_DEVICE_MS: z.coerce.number().int().min(0).max(3_600_000).optional(),
  /** After how much silence a look-in closes itself, in ms; as the house rules say where not set. */
  CELLAR_LOOK_IN_IDLE_MS: z.coerce.number().int().min(100).max(3_600_000).optional(),
  /** Whether work that the house rules ask for begins by itself in quiet hours; tests have it wait until it is asked for. */
  CELLAR_CARE: z.enum(['by-itself', 'when-asked']).default('by-itself'),
  /** Where the demo's tray is; unset in a real shop. */
  CELLAR_TRAY_ADDRESS: z.url().optional(),
  CELLAR_LOG_LEVEL: z.enum(['debug', 'info', 'warn', 'error', 'silent']).default('info'),
});

export type Config = ReturnType<typeof readConfig>;

/** @throws Error that names what is missing, not its value. */
export function readConfig(environment: NodeJS.ProcessEnv) {
  const parsed = environmentSchema.safeParse(environment);
  if (!parsed.success) {
    const names = parsed.error.issues.map((issue) => issue.path.join('.')).join(', ');
    throw new Error(`These settings are missing or not valid: ${names}`);
  }
  const env = parsed.data;
  return {
    databaseUrl: env.CELLAR_DATABASE_URL,
    link: { address: env.CELLAR_LINK_ADDRESS, token: env.CELLAR_LINK_TOKEN },
    data: env.CELLAR_DATA,
    workSocket: env.CELLAR_WORK_SOCKET,
    port: env.CELLAR_PORT,
    waitForDeviceMs: env.CELLAR_WAIT_FOR_DEVICE_MS ?? null,
    lookInIdleMs: env.CELLAR_LOOK_IN_IDLE_MS,
    tlsPort: env.CELLAR_TLS_PORT,
    deskPort: env.CELLAR_DESK_PORT,
    setUpCode: env.CELLAR_SET_UP_CODE ?? null,
    careByItself: env.CELLAR_CARE === 'by-itself',
    trayAddress: env.CELLAR_TRAY_ADDRESS ?? null,
    logLevel: env.CELLAR_LOG_LEVEL,
  };
}
