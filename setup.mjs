// Everything a fresh machine needs, and nothing when all is current. No dependencies of its own.
//
//   node setup.mjs demo [--fresh]   install, build, load the demonstration, serve it
//   node setup.mjs start            install, build, serve the real database (empty at first)
//   node setup.mjs test             install, build, and every check and test
//   node setup.mjs bench            install, build, and print the figures to hold
//   node setup.mjs bench statistics | simulation [RUNS]
//                                   times of mixed models (beside R where it is there); how often tests are wrong
//   node setup.mjs trials [NAME]    install, build, and attack the places where records could be lost
//   node setup.mjs build            install and build
import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = dirname(fileURLToPath(import.meta.url))
const cache = join(root, '.cache')
const reports = join(cache, 'reports')
process.chdir(root)
mkdirSync(cache, { recursive: true })

const say = (text) => console.log(`· ${text}`)
const stop = (text) => {
  console.error(`\n${text}`)
  process.exit(1)
}
const has = (command) => spawnSync('sh', ['-c', `command -v ${command}`], { stdio: 'ignore' }).status === 0
const mayInstall = () => process.platform === 'linux' && has('apt-get') && process.getuid?.() === 0

function run(command, args, { env = {}, quiet = false, allowFailure = false } = {}) {
  const result = spawnSync(command, args, { stdio: quiet ? 'pipe' : 'inherit', env: { ...process.env, ...env }, encoding: 'utf8' })
  if (result.error) stop(`${command} could not be started: ${result.error.message}`)
  if (result.status !== 0 && !allowFailure) {
    if (quiet) console.error(result.stdout + result.stderr)
    stop(`“${command} ${args.join(' ')}” failed (exit ${result.status ?? result.signal}).`)
  }
  return result
}

const bin = (name) => join(root, 'node_modules', '.bin', name)

function checkNode() {
  const major = Number(process.versions.node.split('.')[0])
  if (major < 20) stop(`Node ${process.versions.node} is too old: Canter needs Node 20 or newer.`)
  if (!has('npm')) stop('npm is missing. Install Node 20 with npm 10 or 11.')
}

let listsFresh = false
function apt(packages, why) {
  if (!mayInstall()) return false
  say(`installing ${packages.join(', ')} by apt (${why})`)
  const env = { DEBIAN_FRONTEND: 'noninteractive' }
  const quiet = { env, quiet: true, allowFailure: true }
  if (!listsFresh) run('apt-get', ['update', '-qq'], quiet)
  listsFresh = true
  return run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], quiet).status === 0
}

/** What building sqlite3 needs: a compiler, python3, and the headers of Node and SQLite. */
function buildTools() {
  const missing = [
    ...(has('python3') ? [] : ['python3']),
    ...(has('make') ? [] : ['make']),
    ...(has('g++') ? [] : ['g++']),
    ...(existsSync('/usr/include/sqlite3.h') ? [] : ['libsqlite3-dev']),
  ]
  if (missing.length > 0) apt(missing, 'to build the database driver')
  const stillMissing = ['python3', 'make', 'g++'].filter((each) => !has(each))
  if (stillMissing.length > 0) {
    stop(
      `To build the database driver these are missing: ${stillMissing.join(', ')}.\nInstall them, e.g. as root: apt-get install python3 make g++ libsqlite3-dev`,
    )
  }
  const env = {}
  const prefixes = ['/usr', join(dirname(process.execPath), '..')]
  const headers = prefixes.find((prefix) => existsSync(join(prefix, 'include', 'node', 'node.h')))
  if (headers) env.npm_config_nodedir = headers
  // Linking Debian's SQLite takes seconds; building the bundled one takes minutes.
  if (existsSync('/usr/include/sqlite3.h')) env.npm_config_sqlite = '/usr'
  return env
}

function install() {
  checkNode()
  const stamp = join(cache, 'installed')
  const hash = createHash('sha256').update(readFileSync('package-lock.json')).update(process.versions.modules).digest('hex')
  if (existsSync('node_modules') && existsSync(stamp) && readFileSync(stamp, 'utf8') === hash) return
  rmSync(stamp, { force: true })
  const env = buildTools()
  say('installing packages (2 to 7 minutes the first time)')
  const began = Date.now()
  const npm = run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { env, allowFailure: true })
  if (npm.status !== 0)
    stop('The packages could not be installed. Is there a network? Run the same command again; it goes on where it can.')
  writeFileSync(stamp, hash)
  say(`installed in ${Math.round((Date.now() - began) / 1000)} s`)
}

function* filesUnder(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (['node_modules', 'dist', '.build', '.cache'].includes(entry.name)) continue
    const path = join(folder, entry.name)
    if (entry.isDirectory()) yield* filesUnder(path)
    else yield path
  }
}

function build() {
  install()
  const stamp = join(cache, 'built')
  const hash = createHash('sha256')
  for (const folder of ['core', 'server', 'web', 'cli', 'demo']) {
    for (const file of filesUnder(folder)) hash.update(file).update(readFileSync(file))
  }
  hash.update(readFileSync('tsconfig.base.json')).update(readFileSync('package-lock.json'))
  const now = hash.digest('hex')
  const whole = ['core/dist', 'server/dist', 'web/dist/index.html', 'cli/dist', 'demo/dist'].every((each) => existsSync(each))
  if (whole && existsSync(stamp) && readFileSync(stamp, 'utf8') === now) return
  rmSync(stamp, { force: true })
  say('building')
  run(bin('tsc'), ['-b', 'core', 'server', 'demo', 'cli'])
  run('npm', ['run', 'build', '-w', 'web', '--silent'], { quiet: true })
  writeFileSync(stamp, now)
}

function serve(database) {
  say(`database: ${database}`)
  const result = spawnSync(process.execPath, [join(root, 'server', 'dist', 'main.js')], {
    stdio: 'inherit',
    env: { ...process.env, CANTER_DATABASE: process.env.CANTER_DATABASE ?? join(root, database) },
  })
  process.exit(result.status ?? 0)
}

function demo(flags) {
  build()
  run(process.execPath, [join(root, 'demo', 'dist', 'load.js'), join(root, 'data', 'demo.sqlite'), ...flags])
  process.env.CANTER_DATABASE = join(root, 'data', 'demo.sqlite')
  say('begin with the sugar beet: measured, and to be followed from Question to Report')
  serve('data/demo.sqlite')
}

function chromium() {
  const found = () => ['/usr/bin/chromium', process.env.CANTER_CHROMIUM].find((path) => path && existsSync(path))
  if (!found()) apt(['chromium'], 'for the journeys through the interface')
  if (!found())
    stop('Chromium is missing for the browser tests. Install it, e.g. as root: apt-get install chromium; or name it in CANTER_CHROMIUM.')
  return found()
}

function test() {
  build()
  const browser = chromium()
  rmSync(reports, { recursive: true, force: true })
  mkdirSync(reports, { recursive: true })
  const checks = [
    ['types', bin('tsc'), ['-b']],
    ['lint', bin('eslint'), ['.', '--max-warnings', '0']],
    ['format', bin('prettier'), ['--check', '--log-level', 'warn', '.']],
    ['import rules', bin('depcruise'), ['--config', '.dependency-cruiser.cjs', 'core/src', 'server/src', 'web/src', 'cli/src', 'demo/src']],
    ['nothing unused', bin('knip'), []],
    [
      'unit tests and reference cases',
      bin('vitest'),
      ['run', '--reporter=default', '--reporter=json', `--outputFile.json=${join(reports, 'vitest.json')}`],
    ],
    ['journeys', bin('playwright'), ['test', '-c', 'e2e/playwright.config.ts']],
  ]
  const failed = []
  for (const [name, command, args] of checks) {
    say(name)
    const env = { CANTER_CHROMIUM: browser, CANTER_REPORT: join(reports, 'playwright.json') }
    if (run(command, args, { env, allowFailure: true }).status !== 0) failed.push(name)
  }
  writeFileSync(join(reports, 'checks.json'), JSON.stringify({ of: checks.length, failed }))
  if (failed.length > 0) console.error(`\nFailed: ${failed.join(', ')}.`)
  console.log(total())
  process.exit(failed.length > 0 ? 1 : 0)
}

/** One line added up from the runners' own reports; the static checks count one each. */
function total() {
  const read = (name) => (existsSync(join(reports, name)) ? JSON.parse(readFileSync(join(reports, name), 'utf8')) : null)
  const vitest = read('vitest.json')
  const playwright = read('playwright.json')
  const checks = read('checks.json')
  const runners = ['unit tests and reference cases', 'journeys']
  const checksFailed = checks?.failed.filter((name) => !runners.includes(name)).length ?? 1
  const passed =
    (vitest?.numPassedTests ?? 0) + (playwright?.stats.expected ?? 0) + (checks ? checks.of - runners.length - checksFailed : 0)
  let failed = (vitest?.numFailedTests ?? 1) + (playwright ? playwright.stats.unexpected + playwright.stats.flaky : 1) + checksFailed
  // A runner that failed without a failed test (a file that would not load, say) is a failure too.
  if (failed === 0 && checks?.failed.length > 0) failed = checks.failed.length
  return `${passed} passed, ${failed} failed`
}

const [verb, ...flags] = process.argv.slice(2)
switch (verb) {
  case 'demo':
    demo(flags)
    break
  case 'start':
    build()
    serve('data/canter.sqlite')
    break
  case 'test':
    test()
    break
  case 'total':
    console.log(total())
    break
  case 'build':
    build()
    break
  case 'bench':
    build()
    if (flags[0] === 'statistics') run(process.execPath, [join(root, 'bench', 'statistics', 'run.mjs')])
    else if (flags[0] === 'simulation')
      run(process.execPath, [
        '--import',
        'tsx',
        '--conditions=source',
        join(root, 'bench', 'statistics', 'simulate.mjs'),
        ...flags.slice(1),
      ])
    else run(process.execPath, [join(root, 'bench', 'run.mjs')], { env: { CANTER_CHROMIUM: chromium() } })
    break
  case 'trials':
    build()
    process.exit(run(process.execPath, [join(root, 'trials', 'run.mjs'), ...flags], { allowFailure: true }).status ?? 1)
    break
  default:
    stop('Say what: node setup.mjs demo | start | test | bench | trials | build')
}
