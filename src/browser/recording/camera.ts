import WebSocket from 'ws';
import { clock, type AttemptRecorder } from './recorder.ts';

const quality = 55;
const longestSide = 1920;

interface Frame {
  data: string;
  sessionId: number;
  metadata: { timestamp?: number; deviceWidth: number; deviceHeight: number; pageScaleFactor: number };
}

/**
 * Takes pictures of every window while it changes, straight from the browser's own debugging socket,
 * past driver and mapper, because pictures are what costs most. The next frame is asked for only
 * after a pause, so that a busy page does not pay for pictures nobody looks at.
 */
export class Camera {
  private readonly sockets = new Map<string, WebSocket>();
  private readonly last = new Map<string, string>();

  constructor(
    private readonly address: string,
    private readonly pauseMs: number,
    private readonly recorder: () => AttemptRecorder | undefined,
  ) {}

  open(context: string): void {
    if (this.sockets.has(context)) return;
    const socket = new WebSocket(`ws://${this.address.replace('localhost', '127.0.0.1')}/devtools/page/${context}`, {
      perMessageDeflate: false,
    });
    this.sockets.set(context, socket);
    let id = 0;
    const send = (method: string, params: object): void => {
      if (socket.readyState === WebSocket.OPEN) socket.send(JSON.stringify({ id: ++id, method, params }));
    };
    socket.on('open', () =>
      send('Page.startScreencast', {
        format: 'jpeg',
        quality,
        maxWidth: longestSide,
        maxHeight: longestSide,
        everyNthFrame: 1,
      }),
    );
    socket.on('message', (data: Buffer) => {
      const message = JSON.parse(data.toString()) as { method?: string; params?: Frame };
      if (message.method !== 'Page.screencastFrame' || !message.params) return;
      const frame = message.params;
      setTimeout(() => send('Page.screencastFrameAck', { sessionId: frame.sessionId }), this.pauseMs);
      this.take(context, frame);
    });
    socket.on('error', () => socket.terminate());
    socket.on('close', () => this.sockets.delete(context));
  }

  private take(context: string, { data, metadata }: Frame): void {
    if (this.last.get(context) === data) return;
    this.last.set(context, data);
    const at = metadata.timestamp ? metadata.timestamp * 1000 : clock();
    const size = { width: metadata.deviceWidth, height: metadata.deviceHeight, scale: metadata.pageScaleFactor || 1 };
    void this.recorder()?.picture('frame', Buffer.from(data, 'base64'), 'image/jpeg', at, size, context);
  }

  close(context: string): void {
    this.sockets.get(context)?.terminate();
    this.sockets.delete(context);
    this.last.delete(context);
  }

  end(): void {
    for (const context of [...this.sockets.keys()]) this.close(context);
  }
}
