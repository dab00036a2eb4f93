import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

const binary = join(import.meta.dirname, '..', 'bin', 'hermeneus')

export const password = 'a long password'

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const s = createServer().listen(0, '127.0.0.1', () => {
      const { port } = s.address() as { port: number }
      s.close(() => resolve(port))
    })
  })
}

/** The database that holds a demo world, loaded once for all stories. */
export const world = 'e2e_world'

/** Runs a statement in the tests' PostgreSQL. */
function sql(statement: string) {
  const base = process.env.HERMENEUS_TEST_DATABASE
  if (!base) throw new Error('HERMENEUS_TEST_DATABASE is not set: run the tests with make test')
  execFileSync('psql', ['-q', '-c', statement, base])
}

/** The real binary over a database of its own, with a clock that can be moved. */
export class Server {
  private process?: ChildProcess
  private readonly clockFile = join(mkdtempSync(join(tmpdir(), 'hermeneus-')), 'clock')
  port = 0
  sitePort = 0
  roomPort = 0

  private constructor(
    private readonly name: string,
    private readonly database: string,
  ) {}

  get url() {
    return `http://127.0.0.1:${this.port}`
  }

  /** The page of the mail room, where every mail ends. */
  get mailRoom() {
    return `http://127.0.0.1:${this.roomPort}`
  }

  /** A server over an empty database, or over a copy of the demo world. */
  static async start(command: 'serve' | 'demo' = 'serve'): Promise<Server> {
    const name = `e2e_${process.pid}_${Date.now()}`
    sql(`CREATE DATABASE ${name}${command === 'demo' ? ` TEMPLATE ${world}` : ''}`)
    return Server.over(name, command)
  }

  /** Loads the demo world, to be copied. */
  static async load() {
    sql(`DROP DATABASE IF EXISTS ${world} WITH (FORCE)`)
    sql(`CREATE DATABASE ${world}`)
    await (await Server.over(world, 'demo')).kill()
  }

  private static async over(name: string, command: 'serve' | 'demo'): Promise<Server> {
    const url = new URL(process.env.HERMENEUS_TEST_DATABASE ?? '')
    url.pathname = '/' + name
    const server = new Server(name, url.toString())
    server.moveClock('0s')
    server.port = await freePort()
    server.sitePort = await freePort()
    server.roomPort = await freePort()
    await server.run(command)
    return server
  }

  private env() {
    return {
      ...process.env,
      HERMENEUS_DATABASE: this.database,
      HERMENEUS_ADDRESS: `127.0.0.1:${this.port}`,
      HERMENEUS_SAMPLE_SITE: `127.0.0.1:${this.sitePort}`,
      HERMENEUS_STAND_INS: `127.0.0.1:${this.roomPort}`,
      HERMENEUS_CLOCK_FILE: this.clockFile,
      HERMENEUS_NAME: 'Wrenmoor Community Power',
      HERMENEUS_PER_MINUTE: '0',
      HERMENEUS_DOOR_PER_MINUTE: '0',
    }
  }

  /** Starts the binary, and waits until it answers. */
  async run(command: 'serve' | 'demo' = 'serve') {
    this.process = spawn(binary, [command], {
      env: this.env(),
      stdio: ['ignore', 'ignore', 'inherit'],
    })
    for (let i = 0; i < 2800; i++) {
      const ok = await fetch(this.url + '/healthz').then(
        (r) => r.ok,
        () => false,
      )
      if (ok) return
      if (this.process.exitCode !== null) throw new Error('the server ended')
      await new Promise((r) => setTimeout(r, 50))
    }
    throw new Error('the server does not answer')
  }

  /** Ends the binary at once, as a crash would. */
  async kill() {
    const ended = new Promise((r) => this.process?.once('exit', r))
    this.process?.kill('SIGKILL')
    await ended
  }

  /** Sets how far ahead of the real time the clock is, such as "73h". */
  moveClock(ahead: string) {
    writeFileSync(this.clockFile, ahead)
  }

  addStaff(name: string, roles: string, team = '') {
    execFileSync(
      binary,
      [
        'staff',
        '--name',
        name,
        '--email',
        `${name.toLowerCase()}@wrenmoor.example`,
        '--roles',
        roles,
        '--team',
        team,
      ],
      {
        env: this.env(),
        input: password + '\n',
      },
    )
  }

  addCustomer(name: string, email: string) {
    execFileSync(binary, ['customer', '--name', name, '--email', email], {
      env: this.env(),
      input: password + '\n',
    })
  }

  /** What the command line makes of the evidence that the server kept. */
  outcomes(asOf: string) {
    const evidence = execFileSync(binary, ['export', 'evidence'], {
      env: this.env(),
    })
    const report = execFileSync(binary, ['outcomes', '--evidence', '-', '--as-of', asOf, '--json'], {
      input: evidence,
    })
    return JSON.parse(report.toString()) as { counts: Record<string, number> }
  }

  async stop() {
    await this.kill()
    sql(`DROP DATABASE IF EXISTS ${this.name} WITH (FORCE)`)
  }
}
