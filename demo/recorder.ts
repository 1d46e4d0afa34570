import { noLocalSettings } from '../src/server/local-settings.ts';
import { startServer } from '../src/server/server.ts';

/** An Iskel on a free port and a folder of its own, for scripts that record. @param anyLaunch lets clients launch browsers with every option */
export const startRecorder = (data: string, anyLaunch = false): ReturnType<typeof startServer> =>
  startServer({
    port: 0,
    host: '127.0.0.1',
    data,
    token: undefined,
    anyLaunch,
    local: noLocalSettings,
    idleMs: 60_000,
  });
