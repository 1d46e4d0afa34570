import type { Stressor } from '../../core/trials/stressor.ts';
import type { BidiLink } from '../bidi-link.ts';
import type { RemoteEnd, NewSession } from '../remote-end.ts';
import { pageScripts } from './page-scripts.ts';
import type { DebuggingDoor } from '../debugging-door.ts';
import { bidiGate, debuggingGate, tellGate, type Send } from './gates.ts';
import { HeldRequests, takesRequests, type GateListener, type KeptAnswers } from './requests.ts';

const windows = ['browsingContext.contextCreated'];
const requests = ['network.beforeRequestSent', 'network.responseCompleted'];

/**
 * Lays stressors on one trial in a browser that is shared with others, and takes them off again: everything that was
 * changed is undone, and whatever was held back is let go, also when something broke on the way.
 */
export class Stress {
  private link: BidiLink | undefined;
  private held: HeldRequests | undefined;
  private readonly scripts: string[] = [];

  private constructor(
    private readonly stressors: readonly Stressor[],
    private readonly userContext: string,
  ) {}

  /**
   * @param userContext in which the trial's pages live
   * @param isOwn whether a host is the application's own
   * @param door of the browser, where it has one on this machine
   * @throws Error in words when the browser refuses; nothing is left laid on then
   */
  static async layOn(
    stressors: readonly Stressor[],
    end: RemoteEnd,
    session: NewSession,
    userContext: string,
    isOwn: (host: string) => boolean,
    { door, kept }: { door?: DebuggingDoor; kept?: KeptAnswers } = {},
  ): Promise<Stress> {
    const stress = new Stress(stressors, userContext);
    try {
      await stress.begin(end, session, isOwn, door, kept);
    } catch (error) {
      await stress.undo().catch(() => undefined);
      throw new Error(`the browser did not take what the trial was to be put under: ${(error as Error).message}`);
    }
    return stress;
  }

  private readonly send: Send = (method, params) =>
    this.link?.send(method, params) ?? Promise.reject(new Error('the connection is closed'));

  private async begin(
    end: RemoteEnd,
    session: NewSession,
    isOwn: (host: string) => boolean,
    door: DebuggingDoor | undefined,
    kept: KeptAnswers = () => undefined,
  ): Promise<void> {
    this.link = await end.bidi(
      session,
      (method, params) => this.hear(method, params),
      () => (this.link = undefined),
    );
    const ofRequests = this.stressors.filter(takesRequests);
    const told = ofRequests.length > 0 && !door;
    await this.send('session.subscribe', { events: told ? [...windows, ...requests] : windows });
    if (ofRequests.length)
      this.held = await HeldRequests.start(ofRequests, isOwn, kept, (listener) => {
        if (door) return debuggingGate(door, listener);
        this.listener = listener;
        return bidiGate(this.send);
      });
    for (const functionDeclaration of pageScripts(this.stressors)) {
      const { script } = (await this.send('script.addPreloadScript', { functionDeclaration })) as { script: string };
      this.scripts.push(script);
    }
    const { userContext } = this;
    for (const one of this.stressors)
      if (one.kind === 'zone')
        await this.send('emulation.setTimezoneOverride', { timezone: one.zone, userContexts: [userContext] });
      else if (one.kind === 'locale')
        await this.send('emulation.setLocaleOverride', { locale: one.locale, userContexts: [userContext] });
  }

  private hear(method: string, params: unknown): void {
    if (method !== 'browsingContext.contextCreated') {
      if (this.listener) tellGate(this.listener, method, params);
      return;
    }
    const { context, parent, userContext } = params as { context: string; parent: string | null; userContext?: string };
    if (parent !== null || userContext !== this.userContext || context === this.first) return;
    // A window that the test opens is put under the same.
    void this.window(context).catch(() => undefined);
  }

  private listener: GateListener | undefined;
  private first: string | undefined;

  /** Lays on what belongs to one window, the trial's first before anything is opened in it. @throws Error */
  async window(context: string): Promise<void> {
    this.first ??= context;
    for (const one of this.stressors)
      switch (one.kind) {
        case 'slow-processor':
          await this.debug(context, 'Emulation.setCPUThrottlingRate', { rate: one.factor });
          break;
        case 'animations':
          if (one.factor === 0) break;
          await this.debug(context, 'Animation.enable', {});
          await this.debug(context, 'Animation.setPlaybackRate', { playbackRate: 1 / one.factor });
          break;
        case 'reduced-motion':
          await this.debug(context, 'Emulation.setEmulatedMedia', {
            features: [{ name: 'prefers-reduced-motion', value: 'reduce' }],
          });
          break;
        case 'pixel-ratio':
          await this.send('browsingContext.setViewport', { context, devicePixelRatio: one.ratio });
          break;
        case 'cold-cache':
          await this.send('network.setCacheBehavior', { cacheBehavior: 'bypass', contexts: [context] });
          break;
      }
  }

  private async debug(context: string, method: string, params: Record<string, unknown>): Promise<void> {
    const { session } = (await this.send('goog:cdp.getSession', { context })) as { session: string };
    await this.send('goog:cdp.sendCommand', { method, params, session });
  }

  /** Takes everything off. What belongs to the trial's own context goes with it. @throws Error when the browser does not let go */
  async undo(): Promise<void> {
    const { link, held, scripts } = this;
    try {
      if (!link) return;
      await held?.undo();
      for (const script of scripts) await this.send('script.removePreloadScript', { script });
    } finally {
      link?.close();
      this.link = undefined;
    }
  }
}
