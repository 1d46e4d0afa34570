import type { BrowserContext, Dialog, ElementHandle, Frame, Page } from 'playwright-core';

type Json = Record<string, unknown>;
const elementKey = 'element-6066-11e4-a52e-4f735466cecf';

/** An error of WebDriver, with what the client itself said. */
export class CommandError extends Error {
  constructor(
    readonly code: string,
    message: string,
    /** The client's whole message, its log of the call included. */
    readonly client = '',
  ) {
    super(message);
  }
}

/** Whether the client waits by itself until an element can be used, or is asked for elements and uses them at once. */
export type Waiting = 'explicit' | 'itself';
const waitsMs = { explicit: 1500, itself: 2500 } as const;

/** What the client's messages mean to a test that was written for WebDriver. */
function codeOf(message: string): string {
  if (/intercepts pointer events/.test(message)) return 'element click intercepted';
  if (/not attached|detached|Execution context was destroyed|handle is invalid|JSHandle is disposed/i.test(message))
    return 'stale element reference';
  if (/not visible|not enabled|outside of the viewport|not an <input>|not editable/i.test(message))
    return 'element not interactable';
  if (/Timeout .* exceeded/.test(message)) return 'timeout';
  return 'unknown error';
}

const keyNames: Record<string, string> = {
  '\uE007': 'Enter',
  '\uE006': 'Enter',
  '\uE004': 'Tab',
  '\uE00C': 'Escape',
  '\uE003': 'Backspace',
  '\uE015': 'ArrowDown',
  '\uE013': 'ArrowUp',
  '\uE014': 'ArrowRight',
  '\uE012': 'ArrowLeft',
  '\uE010': 'End',
  '\uE011': 'Home',
  '\uE009': 'Control',
  '\uE008': 'Shift',
  '\uE00D': ' ',
};

/** One session of WebDriver, carried out by a client that drives the browser over DevTools. */
export class ClientSession {
  private page: Page;
  private frame: Frame;
  private readonly elements = new Map<string, ElementHandle>();
  private readonly selectors = new Map<string, string>();
  private readonly windows = new Map<string, Page>();
  private count = 0;
  private dialog: Dialog | undefined;
  /** What the client said last when it could not. */
  lastError: CommandError | undefined;

  private constructor(
    readonly context: BrowserContext,
    page: Page,
    private readonly waiting: Waiting,
    private readonly prompt: string,
  ) {
    this.page = page;
    this.frame = page.mainFrame();
  }

  static async start(context: BrowserContext, waiting: Waiting, prompt: string): Promise<ClientSession> {
    const session = new ClientSession(context, await context.newPage(), waiting, prompt);
    const joins = (page: Page): void => {
      session.windows.set(`w${session.windows.size + 1}`, page);
      page.on('dialog', (dialog) => (session.dialog = dialog));
      page.on('close', () => {
        for (const [name, one] of session.windows) if (one === page) session.windows.delete(name);
      });
    };
    joins(session.page);
    context.on('page', (page) => page !== session.page && joins(page));
    return session;
  }

  async command(method: string, path: string, body: Json): Promise<unknown> {
    if (this.dialog && !path.startsWith('/alert')) {
      const { dialog } = this;
      this.dialog = undefined;
      if (this.prompt.startsWith('accept')) await dialog.accept().catch(() => undefined);
      else await dialog.dismiss().catch(() => undefined);
      if (!/^(?:accept|dismiss)$/.test(this.prompt))
        throw new CommandError('unexpected alert open', `a dialog was open: ${dialog.message()}`);
    }
    try {
      // A dialog that opens meanwhile holds the client up; a test of WebDriver goes on.
      return await Promise.race([this.carryOut(method, path, body), this.dialogOpens()]);
    } catch (error) {
      const { message } = error as Error;
      const told =
        error instanceof CommandError ? error : new CommandError(codeOf(message), message.split('\n')[0]!, message);
      this.lastError = told;
      throw told;
    }
  }

  private async dialogOpens(): Promise<null> {
    for (;;) {
      await new Promise((done) => setTimeout(done, 50).unref());
      if (this.dialog) return null;
    }
  }

  /** @param selector by which it was found: a test knows what it has in its hands */
  private wrapped(handle: ElementHandle, selector = ''): Json {
    const id = `e${++this.count}`;
    this.elements.set(id, handle);
    this.selectors.set(id, selector);
    return { [elementKey]: id };
  }

  private element(id: string): ElementHandle {
    const element = this.elements.get(id);
    if (!element) throw new CommandError('stale element reference', 'no such handle');
    return element;
  }

  private async find(root: Frame | ElementHandle, { using, value }: Json, all: boolean): Promise<unknown> {
    const text = JSON.stringify(String(value));
    const selector =
      using === 'xpath'
        ? `xpath=${String(value)}`
        : using === 'link text'
          ? `a:text-is(${text})`
          : using === 'partial link text'
            ? `a:has-text(${text})`
            : `css=${String(value)}`;
    if (all) return Promise.all((await root.$$(selector)).map((one) => this.wrapped(one)));
    const found = await root.$(selector);
    if (!found) throw new CommandError('no such element', `nothing matches ${String(value)}`);
    return this.wrapped(found, selector);
  }

  private async ofElement(id: string, method: string, path: string, body: Json): Promise<unknown> {
    const element = this.element(id);
    const limit = { timeout: waitsMs[this.waiting] };
    const [what, name] = [path.split('/')[1], decodeURIComponent(path.split('/')[2] ?? '')];
    switch (what) {
      case 'click':
        // A choice in a list is chosen, not pressed.
        if (/\boption\b/.test(this.selectors.get(id) ?? '')) {
          const list = (await element.evaluateHandle((one) => (one as HTMLElement).closest('select')!)).asElement();
          return void (await list!.selectOption(
            await element.evaluate((one) => (one as HTMLOptionElement).value),
            limit,
          ));
        }
        return void (await element.click(limit));
      case 'clear':
        return void (await element.fill('', limit));
      case 'value': {
        const text = String(body.text);
        if (/\bfile\b/.test(this.selectors.get(id) ?? ''))
          return void (await element.setInputFiles(text.split('\n'), limit));
        if (!(await element.boundingBox()))
          throw new CommandError('element not interactable', 'it cannot be typed into');
        await element.focus();
        return this.types(text);
      }
      case 'text':
        return (await element.innerText()).trim();
      case 'name':
        return element.evaluate((one) => (one as Element).localName);
      case 'attribute':
        return element.getAttribute(name);
      case 'property':
        if (name === 'value') return element.inputValue(limit);
        return element.evaluate((one, key) => (one as unknown as Json)[key] ?? null, name);
      case 'css':
        return element.evaluate((one, key) => getComputedStyle(one as Element).getPropertyValue(key), name);
      case 'rect':
        return (await element.boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
      case 'enabled':
        return element.isEnabled();
      case 'displayed':
        return element.isVisible();
      case 'selected':
        return element.evaluate((one) =>
          one instanceof HTMLOptionElement ? one.selected : (one as HTMLInputElement).checked === true,
        );
      case 'element':
      case 'elements':
        return this.find(element, body, what === 'elements');
    }
    throw new CommandError('unknown command', `${method} ${path}`);
  }

  private async types(text: string): Promise<void> {
    const held: string[] = [];
    for (const letter of text) {
      const key = keyNames[letter];
      if (key === 'Control' || key === 'Shift') {
        await this.page.keyboard.down(key);
        held.push(key);
      } else if (key) await this.page.keyboard.press(key);
      else await this.page.keyboard.type(letter);
    }
    for (const key of held) await this.page.keyboard.up(key);
  }

  private async script(body: Json, asynchronous: boolean): Promise<unknown> {
    const args = ((body.args ?? []) as unknown[]).map((one) =>
      one && typeof one === 'object' && elementKey in one ? this.element(String((one as Json)[elementKey])) : one,
    );
    const handle = await this.frame.evaluateHandle(
      ([source, later, given]) =>
        later
          ? new Promise((done) => new Function(source as string)(...(given as unknown[]), done))
          : new Function(source as string)(...(given as unknown[])),
      [String(body.script), asynchronous, args] as const,
    );
    const element = handle.asElement();
    return element ? this.wrapped(element as ElementHandle) : ((await handle.jsonValue()) ?? null);
  }

  private async actions({ actions }: Json): Promise<void> {
    for (const source of actions as (Json & { actions: Json[] })[])
      for (const act of source.actions) {
        const ms = Number(act.duration ?? 0);
        if (act.type === 'pause') await new Promise((done) => setTimeout(done, ms));
        else if (act.type === 'keyDown')
          await this.page.keyboard.down(keyNames[String(act.value)] ?? String(act.value));
        else if (act.type === 'keyUp') await this.page.keyboard.up(keyNames[String(act.value)] ?? String(act.value));
        else if (act.type === 'pointerDown') await this.page.mouse.down();
        else if (act.type === 'pointerUp') await this.page.mouse.up();
        else if (act.type === 'pointerMove') {
          let [x, y] = [Number(act.x), Number(act.y)];
          const { origin } = act;
          if (origin && typeof origin === 'object') {
            const box = (await this.element(String((origin as Json)[elementKey])).boundingBox())!;
            [x, y] = [x + box.x + box.width / 2, y + box.y + box.height / 2];
          }
          await this.page.mouse.move(x, y, { steps: Math.max(1, Math.round(ms / 30)) });
        }
      }
  }

  private async carryOut(method: string, path: string, body: Json): Promise<unknown> {
    const own = /^\/element\/(e\d+)(\/.+)$/.exec(path);
    if (own) return this.ofElement(own[1]!, method, own[2]!, body);
    const { page, frame } = this;
    switch (`${method} ${path}`) {
      case 'POST /url':
        return void (await page.goto(String(body.url)));
      case 'GET /url':
        return page.url();
      case 'GET /title':
        return page.title();
      case 'POST /back':
        return void (await page.goBack());
      case 'POST /refresh':
        return void (await page.reload());
      case 'GET /source':
        return frame.content();
      case 'POST /element':
        return this.find(frame, body, false);
      case 'POST /elements':
        return this.find(frame, body, true);
      case 'GET /element/active':
        return this.wrapped(
          (await frame.evaluateHandle(() => document.activeElement ?? document.body)) as ElementHandle,
        );
      case 'POST /execute/sync':
        return this.script(body, false);
      case 'POST /execute/async':
        return this.script(body, true);
      case 'POST /actions':
        return this.actions(body);
      case 'DELETE /actions':
      case 'POST /timeouts':
        return null;
      case 'GET /window/handles':
        return [...this.windows.keys()];
      case 'GET /window':
        return [...this.windows].find(([, one]) => one === page)?.[0] ?? null;
      case 'POST /window': {
        const next = this.windows.get(String(body.handle));
        if (!next) throw new CommandError('no such window', 'it is closed');
        [this.page, this.frame] = [next, next.mainFrame()];
        return null;
      }
      case 'POST /window/new':
        await this.context.newPage();
        return { handle: [...this.windows.keys()].at(-1), type: 'tab' };
      case 'DELETE /window':
        await page.close();
        return [...this.windows.keys()];
      case 'POST /frame':
        if (body.id === null) this.frame = page.mainFrame();
        else if (typeof body.id === 'number') this.frame = frame.childFrames()[body.id]!;
        else this.frame = (await this.element(String((body.id as Json)[elementKey])).contentFrame())!;
        return null;
      case 'POST /frame/parent':
        this.frame = frame.parentFrame() ?? frame;
        return null;
      case 'POST /window/rect':
        await page.setViewportSize({ width: Number(body.width), height: Number(body.height) });
        return { x: 0, y: 0, width: body.width, height: body.height };
      case 'GET /window/rect':
        return { x: 0, y: 0, ...page.viewportSize() };
      case 'GET /alert/text':
        return this.openDialog().message();
      case 'POST /alert/accept':
      case 'POST /alert/dismiss': {
        const dialog = this.openDialog();
        this.dialog = undefined;
        return void (await (path.endsWith('accept') ? dialog.accept() : dialog.dismiss()));
      }
      case 'GET /cookie':
        return this.context.cookies();
      case 'POST /cookie': {
        const cookie = body.cookie as { name: string; value: string };
        return void (await this.context.addCookies([{ ...cookie, url: page.url() }]));
      }
      case 'DELETE /cookie':
        return void (await this.context.clearCookies());
      case 'GET /screenshot':
        return (await page.screenshot()).toString('base64');
    }
    throw new CommandError('unknown command', `${method} ${path}`);
  }

  private openDialog(): Dialog {
    if (!this.dialog) throw new CommandError('no such alert', 'no dialog is open');
    return this.dialog;
  }
}
