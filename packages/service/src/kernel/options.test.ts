import { describe, expect, it } from 'vitest'
import { flagOf, OptionError, readOptions, serviceOptions, variableOf } from './options.js'

const thrown = (work: () => unknown): Error => {
  try {
    work()
  } catch (error) {
    return error as Error
  }
  throw new Error('it was not refused')
}

describe('options', () => {
  it('come from flags, then the environment, then defaults', () => {
    expect(readOptions({}, {})).toEqual({
      data: './data/main',
      host: '127.0.0.1',
      port: 4080,
      baseUrl: '',
      logLevel: 'info',
      maxUpload: 100,
      maxArchive: 10_000,
      trustProxy: '',
      keepEvents: 90,
      keepHistory: 30,
      responseCache: 16,
      readRate: 30_000,
      mailServer: '',
      mailFrom: '',
      metrics: false,
      allowPrivateAddresses: false,
    })
    expect(readOptions({ port: '1' }, { WISTERIA_PORT: '2', WISTERIA_HOST: '0.0.0.0' })).toMatchObject({
      port: 1,
      host: '0.0.0.0',
    })
    expect(readOptions({}, { WISTERIA_ALLOW_PRIVATE_ADDRESSES: 'yes' }).allowPrivateAddresses).toBe(true)
    expect(readOptions({}, { WISTERIA_PORT: '' }).port).toBe(4080)
  })
  it.each([
    [{ port: 'x' }, {}, '--port must be a number, not “x”.'],
    [{ port: '1.5' }, {}, '--port must be a whole number, not “1.5”.'],
    [{ port: '-1' }, {}, '--port must be at least 0, not “-1”.'],
    [
      {},
      { WISTERIA_LOG_LEVEL: 'loud' },
      'WISTERIA_LOG_LEVEL must be one of trace, debug, info, warn, error, silent, not “loud”.',
    ],
    [{ baseUrl: 'here' }, {}, '--base-url must be an address such as https://content.example, not “here”.'],
    [
      {},
      { WISTERIA_ALLOW_PRIVATE_ADDRESSES: 'perhaps' },
      'WISTERIA_ALLOW_PRIVATE_ADDRESSES must be yes or no, not “perhaps”.',
    ],
  ])('with a bad value are refused by name: %j %j', (flags, environment, message) => {
    const error = thrown(() => readOptions(flags, environment))
    expect([error instanceof OptionError, error.message]).toEqual([true, message])
  })
  it('are named alike everywhere', () => {
    for (const name of Object.keys(serviceOptions))
      expect(variableOf(name)).toBe('WISTERIA_' + flagOf(name).slice(2).replaceAll('-', '_').toUpperCase())
  })
})
