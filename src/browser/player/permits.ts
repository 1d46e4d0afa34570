import type { Confirmed } from '../../core/drill/reach.ts';
import { waysIn } from '../../core/drill/files-typed.ts';
import { refusesAddress } from '../recording/reach.ts';

/** What a drill that is played may reach beyond its pages. */
export class Permits {
  /**
   * @param anyAddress every address may be opened, those of this machine too
   * @param bound hosts that the settings bind a secret to, by its name
   * @param confirmed where the drill came from outside: what a person looked at; nothing else of the kind is typed
   */
  constructor(
    private readonly anyAddress = false,
    private readonly bound: Readonly<Record<string, readonly string[]>> = {},
    private readonly confirmed?: Confirmed,
  ) {}

  /** Why an address is not opened. */
  refusesToOpen(address: string): string | undefined {
    return this.anyAddress ? undefined : refusesAddress(address);
  }

  /** Whether it has to be known what kind of field is typed into. */
  get asksField(): boolean {
    return this.confirmed !== undefined;
  }

  /**
   * Why a text is not typed: in a drill from outside a path may be that of any file of this machine.
   * @param intoFile it goes into a file field, where everything is a path
   */
  refusesToType(text: string, intoFile: boolean): string | undefined {
    const paths = intoFile ? text.split('\n') : waysIn(text);
    const other = this.confirmed && paths.find((path) => !this.confirmed!.files.includes(path));
    return other === undefined
      ? undefined
      : `the path ${other} is not typed: this drill comes from evidence that was brought in, and nobody has allowed that file`;
  }

  /** Whether a secret is typed on some hosts only, so that it has to be known where the page is. */
  asksHost(secret: string): boolean {
    return this.confirmed !== undefined || Object.hasOwn(this.bound, secret);
  }

  /** Why a secret is not typed where the page is. */
  refusesSecret(secret: string, host: string): string | undefined {
    const bound = Object.hasOwn(this.bound, secret) ? this.bound[secret]! : undefined;
    if (bound && !bound.includes(host))
      return `the secret “${secret}” belongs to ${bound.join(', ')} and is not typed at ${host || 'this page'}; the settings file says so`;
    if (this.confirmed && !(this.confirmed.secrets.includes(secret) && this.confirmed.hosts.includes(host)))
      return `the secret “${secret}” is not typed at ${host || 'this page'}: this drill comes from evidence that was brought in, and nobody has allowed that`;
    return undefined;
  }
}

/** For a drill that was written or recorded here. */
export const usualPermits = new Permits();
