import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { routeOf } from './route.ts';
import { WireRefused } from './wire-answer.ts';

const id = '0a1b2c3d4e5f60718293a4b5c6d7e8f9';
const codeOf = (method: string, path: string): string => {
  try {
    return routeOf(method, path).to;
  } catch (error) {
    return (error as WireRefused).error;
  }
};

describe('the router of the recording endpoint', () => {
  it.each([
    ['GET', '/status', 'status'],
    ['GET', '/status?x=1', 'status'],
    ['POST', '/session', 'new session'],
    ['GET', `/session/${id}/title`, 'session'],
    ['DELETE', `/session/${id}`, 'session'],
    ['GET', `/session/${id}/element/f.1.d.2.e.3/attribute/data-%C3%A9`, 'session'],
    ['POST', '/status', 'unknown method'],
    ['PUT', '/session', 'unknown method'],
    ['GET', '/session', 'unknown method'],
    ['POST', '/Session', 'unknown command'],
    ['POST', '/session/', 'unknown command'],
    ['POST', '//session', 'unknown command'],
    ['POST', '/./session', 'unknown command'],
    ['POST', `/session/${id}/../../session`, 'unknown command'],
    ['POST', '/%73ession', 'unknown command'],
    ['POST', `/session/${id}%2ftitle`, 'unknown command'],
    ['POST', `/session/${id}/%67oog/cdp/execute`, 'unknown command'],
    ['POST', `/session/${id}//goog/cdp/execute`, 'unknown command'],
    ['GET', `/session/${id}/title/`, 'unknown command'],
    ['GET', '/sessions', 'unknown command'],
    ['POST', '/shutdown', 'unknown command'],
    ['GET', '', 'unknown command'],
    ['GET', '/', 'unknown command'],
  ])('%s %s leads to %s', (method, path, to) => {
    expect(codeOf(method, path)).toBe(to);
  });

  it('never throws anything else, and never begins a session but by its one path', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('GET', 'POST', 'PUT'),
        fc.string({ unit: 'binary', maxLength: 80 }),
        (method, path) => {
          try {
            const route = routeOf(method, path);
            if (route.to === 'new session') expect([method, path.split('?', 1)[0]]).toEqual(['POST', '/session']);
          } catch (error) {
            expect(error).toBeInstanceOf(WireRefused);
          }
        },
      ),
    );
  });
});
