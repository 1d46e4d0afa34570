import { describe, expect, it } from 'vitest';
import { ClientEvents } from './client-events.ts';

const created = (context: string, parent: string | null = null, userContext = 'default') => ({
  context,
  parent,
  userContext,
});

describe('what a client hears of a session that it shares with us', () => {
  it('is what it subscribed to, by event or by module', () => {
    const events = new ClientEvents();
    expect(events.hears('log.entryAdded', {})).toBe(false);
    events.subscribed({ events: ['log', 'browsingContext.load'] }, 's1');
    expect([events.mayHear('log.entryAdded'), events.mayHear('network.fetchError')]).toEqual([true, false]);
    expect(events.hears('log.entryAdded', {})).toBe(true);
    expect(events.hears('browsingContext.load', { context: 'a' })).toBe(true);
    expect(events.hears('browsingContext.domContentLoaded', { context: 'a' })).toBe(false);
    events.unsubscribed(['s1']);
    expect(events.hears('log.entryAdded', {})).toBe(false);
  });

  it('is within the windows and isolated contexts it named, with the frames in them', () => {
    const events = new ClientEvents();
    events.hears('browsingContext.contextCreated', created('a'));
    events.hears('browsingContext.contextCreated', created('frame', 'a'));
    events.hears('browsingContext.contextCreated', created('b', null, 'u2'));
    events.subscribed({ events: ['log'], contexts: ['frame'] }, 's1');
    events.subscribed({ events: ['network'], userContexts: ['u2'] }, 's2');
    const hears = (method: string, context: string): boolean => events.hears(method, { source: { context } });
    expect(['a', 'frame', 'b', 'gone'].map((one) => hears('log.entryAdded', one))).toEqual([true, true, false, false]);
    expect(['a', 'b'].map((one) => hears('network.fetchError', one))).toEqual([false, true]);
  });

  it('tells whoever asks first of the windows that are there, each once', () => {
    const events = new ClientEvents();
    for (const one of ['a', 'b']) events.hears('browsingContext.contextCreated', created(one));
    events.hears('browsingContext.contextDestroyed', created('b'));
    const first = events.subscribed({ events: ['browsingContext.contextCreated'] }, 's1');
    expect(first.map(({ params }) => params.context)).toEqual(['a']);
    expect(events.subscribed({ events: ['browsingContext'] }, 's2')).toEqual([]);
  });

  it('takes back by name only what it had asked for everywhere', () => {
    const events = new ClientEvents();
    events.subscribed({ events: ['log.entryAdded', 'network'] }, 's1');
    expect(events.withdrawn(['log.entryAdded', 'script.message'])).toMatchObject({
      code: 'invalid argument',
      said: 'Failed to unsubscribe from events: script.message',
    });
    expect(events.hears('log.entryAdded', {})).toBe(true);
    expect(events.withdrawn(['log.entryAdded'])).toBeUndefined();
    expect(events.hears('log.entryAdded', {})).toBe(false);
    expect(events.hears('network.fetchError', {})).toBe(true);
  });

  it('shows no realm, message or answer of ours', () => {
    const events = new ClientEvents();
    events.subscribed({ events: ['script'] }, 's1');
    expect(events.hears('script.realmCreated', { realm: 'r1', sandbox: 'iskel' })).toBe(false);
    expect(events.hears('script.realmCreated', { realm: 'r2', sandbox: 'theirs' })).toBe(true);
    expect(events.hears('script.realmDestroyed', { realm: 'r1' })).toBe(false);
    expect(events.hears('script.realmDestroyed', { realm: 'r2' })).toBe(true);
    expect(events.hears('script.message', { channel: 'iskel' })).toBe(false);
    expect(events.hears('script.message', { channel: 'theirs' })).toBe(true);
    const realms = [{ realm: 'r1', sandbox: 'iskel' }, { realm: 'r2' }];
    expect(events.shown('script.getRealms', { realms })).toEqual({ realms: [{ realm: 'r2' }] });
    expect(events.shown('script.getRealms', { realms: realms.slice(1) })).toBeUndefined();
  });
});
