import { Command, CommanderError, InvalidArgumentError, Option } from 'commander'

function within(low: number, high: number): (text: string) => string {
  return text => {
    const n = Number(text)
    if (!Number.isInteger(n) || n < low || n > high)
      throw new InvalidArgumentError(`must be a whole number from ${low} to ${high}`)
    return text
  }
}

function oneOf(...values: string[]): (text: string) => string {
  return text => {
    if (!values.includes(text)) throw new InvalidArgumentError(`must be ${values.join(' or ')}`)
    return text
  }
}

function planOf(text: string): string {
  if (['auto', 'biped', 'fourleg'].includes(text) || /\.json$/i.test(text)) return text
  throw new InvalidArgumentError('must be auto, biped, fourleg or the name of a .json file')
}

function number(low: number, high: number): (text: string) => string {
  return text => {
    const n = Number(text)
    if (text.trim() === '' || !(n >= low && n <= high))
      throw new InvalidArgumentError(`must be a number from ${low} to ${high}`)
    return text
  }
}

function pair(text: string): string {
  if (!/^\d+(\.\d+)?,\d+(\.\d+)?$/.test(text)) throw new InvalidArgumentError('must be two numbers, as 0.5,2')
  return text
}

const STORE = 'folder all machines of the queue share; one of this machine unless told'

/** An option under the name it had before, still taken and no longer told. */
const older = (flags: string, now: string, parse: (text: string) => string): Option =>
  new Option(flags, `older name of ${now}`).argParser(parse).hideHelp()

/** A command whose program is only loaded when it is asked for: most of a short command's time would go there. */
const late =
  <A extends unknown[]>(load: () => Promise<(...told: A) => Promise<void>>) =>
  async (...told: A): Promise<void> =>
    (await load())(...told)

const program = new Command('chiraxis')
  .description('Rig character bodies and carry motions onto their skeletons.')
  .exitOverride()

program
  .command('inspect')
  .description('tell what a file holds')
  .argument('<file>')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/inspect').then(m => m.inspect)))
program
  .command('rig')
  .description('find landmarks, build skeleton and skin')
  .argument('<body>')
  .requiredOption('--out <file>', 'GLB to write')
  .option('--plan <plan>', 'auto, biped, fourleg, or a plan file (.json)', planOf, 'auto')
  .option(
    '--fingers <n>',
    'fingers per hand, or auto: as many as are modelled',
    text => (text === 'auto' ? text : within(0, 5)(text)),
    'auto',
  )
  .option('--twist-joints <n>', 'twist and bend joints on each long bone', within(0, 3))
  .addOption(older('--flex <n>', '--twist-joints', within(0, 3)))
  .option('--landmarks <file>', 'landmarks placed by hand, JSON')
  .option('--skeleton <file>', 'file whose skeleton is laid on the body as it is')
  .option('--influences <n>', 'influences of a vertex, at most', within(1, 8), '4')
  .option('--strain', 'drive the figure through the check poses too, and report what its skin goes through')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/rig').then(m => m.rig)))
program
  .command('mend')
  .description('repair every known mismatch that can be repaired safely')
  .argument('<file>')
  .requiredOption('--out <file>', 'GLB to write')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/mend').then(m => m.mend)))
program
  .command('bind')
  .description('skin a body to a given skeleton')
  .argument('<body>')
  .requiredOption('--skeleton <file>', 'file with the skeleton')
  .requiredOption('--out <file>', 'GLB to write')
  .option('--influences <n>', 'influences of a vertex, at most', within(1, 8), '4')
  .option('--strain', 'drive the figure through the check poses too, and report what its skin goes through')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/bind').then(m => m.bindCommand)))
program
  .command('strain')
  .description('drive a figure through check poses and measure its skin')
  .argument('<file>')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/strain').then(m => m.strainCommand)))
program
  .command('face')
  .description('find the places of a face and make the expressions it lacks')
  .argument('<body>')
  .requiredOption('--out <file>', 'GLB or VRM to write')
  .option('--places <file>', 'places of the face told by hand, JSON')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/face').then(m => m.faceCommand)))
program
  .command('light')
  .description('make a new surface of quads, drawn along the limbs and bound to the skeleton')
  .argument('<body>')
  .requiredOption('--out <file>', 'GLB to write, or OBJ, which keeps the quads')
  .option('--quads <n>', 'quads it has, about', '8000')
  .option('--bake <pixels>', 'bake colour and normals of the body into images of this size: 512, 1024, 2048 or 4096')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/light').then(m => m.lightCommand)))
program
  .command('voice')
  .description('hear which shapes a mouth makes to a voice, and when')
  .argument('<sound>', 'WAV of up to ten minutes')
  .requiredOption('--out <file>', 'JSON to write')
  .option('--fps <n>', 'values a second', number(1, 240), '60')
  .option('--lead <ms>', 'how far the mouth goes ahead of the sound', number(0, 200), '20')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/voice').then(m => m.voiceCommand)))
program
  .command('transfer')
  .description('carry a motion onto a figure')
  .requiredOption('--take <file>', 'file with the motion')
  .requiredOption('--onto <file>', 'rigged figure')
  .requiredOption('--out <file>', 'GLB to write')
  .option('--map <file>', 'role map, JSON')
  .option('--rest <how>', 'auto or none', oneOf('auto', 'none'), 'auto')
  .option('--exact', 'carry over exactly and correct nothing afterwards')
  .option('--no-hold-feet', 'let resting feet slide')
  .option('--ground', 'hold resting feet, as is done anyway')
  .option('--hands <share>', 'keep hands on each other and on the body, 0 to 1', number(0, 1), '1')
  .option('--girdle', "raised arms take the figure's collar bones along where the performer has none")
  .option('--no-limits', "let joints turn farther than a body's do")
  .option('--leave-out-calibration', 'leave out a pose for measuring that takes begin with')
  .option('--no-as-performed', 'correct whatever the performer did: limits, elbow room and still feet hold in any case')
  .option('--limits', "hold joints back from turning farther than a body's do, as is done anyway")
  .option(
    '--elbow-room <cm>',
    'keep arms this far off the body, or off (default 0.5 where there is a skinned body)',
    text => (text === 'off' ? text : number(0, 100)(text)),
  )
  .option(
    '--rest-from <where>',
    "performer's rest pose: auto, file, or a frame of the take",
    text => (text === 'auto' || text === 'file' ? text : within(0, 500_000)(text)),
    'auto',
  )
  .option('--fps <n>', 'frames a second of the result', number(1, 240))
  .option('--trim <from,to>', 'seconds that are kept', pair)
  .option('--pace <x>', 'how many times faster', number(0.1, 10))
  .option('--step-length <x>', 'length of steps', number(0.3, 2))
  .option('--swing <x>', 'how far trunk and arms swing', number(0, 3))
  .addOption(older('--vigour <x>', '--swing', number(0, 3)))
  .option('--mirror', 'exchange left and right')
  .option('--on-the-spot', 'without travel')
  .option('--loop-blend <s>', 'lead the end into the beginning', number(0, 5))
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/transfer').then(m => m.transferCommand)))

program
  .command('ground')
  .description(
    'put the travel of takes on a root joint, leave it on the hips or drop it; find it from the feet; lead it another way',
  )
  .argument('<file>', 'figure or recording')
  .requiredOption('--out <file>', 'GLB, BVH or VRM Animation to write')
  .option('--carry <channels>', 'on the root joint: across, ahead, height, turn, with commas between')
  .option('--on-hips <channels>', 'on the hips')
  .option('--drop <channels>', 'dropped')
  .option('--root <name>', 'the root joint; added where there is none of that name')
  .option('--on-the-spot', 'across and ahead dropped')
  .option('--travel-from-feet', 'tell the travel of takes recorded in place from their feet')
  .option('--smooth <s>', 'seconds over which the sway of steps is evened out', number(0, 5), '0.6')
  .option('--start <what>', 'begin at rest: place, facing')
  .option('--close <channels>', 'end as begun, the difference spread over the take')
  .option('--straight', 'in one line, feet held')
  .option('--bend <degrees>', 'bent to its left over the whole way, feet held', number(-3600, 3600))
  .option(
    '--cues <kinds>',
    'moments that are found and written: footstep, crossing, touch, apex, or none (default all)',
  )
  .option('--curves <names>', 'curves written along: way, speed')
  .option('--surface <name>', 'what the feet step on')
  .option('--floor <floor>', 'degrees it rises ahead and to the left, metres it lies higher, as 8,0,0.5')
  .option('--along <points>', 'through points, metres to its left and ahead, as 0,2;1,4')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/ground').then(m => m.groundCommand)))
program
  .command('deliver')
  .description('write a figure, a recording or a project as a receiver wants it, and prove it')
  .argument('<file>', 'figure, recording or project (.chiraxis)')
  .requiredOption('--out <file>', 'GLB, glTF, VRM, VRM Animation, BVH, USD text, OBJ, or an archive (.zip)')
  .option('--take <names>', 'takes that go along: all, none, or names with commas between', 'all')
  .option('--body <whether>', 'yes, or no for motion alone', oneOf('yes', 'no'), 'yes')
  .option('--profile <profile>', 'name of a shipped profile, or a profile file (.json)')
  .option('--at <seconds>', 'moment of the take an OBJ stands as the figure does in it; left out, at rest')
  .option('--insist', 'hand files over although their proof fails; what failed is told')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/deliver').then(m => m.deliverCommand)))
program
  .command('open')
  .description('open a saved project or a body: settings laid over it, made again on another body, delivered, saved')
  .argument('<project>', 'project (.chiraxis) or body')
  .option('--set <file>', 'settings laid over what was decided, JSON')
  .option('--body <file>', 'another body, or a new version of it; all work by hand is made again on it')
  .option('--takes <names>', 'takes to write: all, none, or names with commas between', 'all')
  .option('--out <file>', 'GLB to write')
  .option('--save <file>', 'project to write')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/open').then(m => m.openCommand)))
program
  .command('bake')
  .description('a take of a project with its layers and props in its frames, as a file or as a take of its own')
  .argument('<project>', 'project (.chiraxis)')
  .requiredOption('--take <name>', 'name of the take')
  .option('--layers <file>', 'layers laid over it beside its own, JSON')
  .option('--out <file>', 'GLB, BVH or VRM Animation to write')
  .option('--save <file>', 'project to write, the baked take beside the one it came from')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/bake').then(m => m.bakeCommand)))
program
  .command('batch')
  .description('several jobs on all cores, or by the workers of a queue')
  .argument('<spec>', 'JSON: { figures, takes, out, name, … } or { jobs: [{ command, … }] }')
  .option('--queue <address>', 'queue whose workers do the jobs, as redis://HOST:PORT')
  .option('--store <folder>', STORE)
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/batch').then(m => m.batchCommand)))
program
  .command('worker')
  .description('take jobs of batches from a queue until told to end')
  .requiredOption('--queue <address>', 'the queue, as redis://HOST:PORT')
  .option('--store <folder>', STORE)
  .option('--jobs <n>', 'jobs side by side, as many as there are cores unless told', within(1, 64))
  .option('--seconds <s>', 'a job that takes longer is given up', number(1, 86_400), '600')
  .option('--memory <MiB>', 'a job that holds more is given up', within(64, 1_000_000), '4096')
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/worker').then(m => m.workerCommand)))
program
  .command('queue')
  .description('how a queue stands, and what was set aside and why')
  .requiredOption('--queue <address>', 'the queue, as redis://HOST:PORT')
  .option('--store <folder>', STORE)
  .option('--again', 'try what was set aside anew')
  .option('--sweep <days>', 'remove from the store what nobody asked for in so many days', number(0, 10_000))
  .option('--report <file>', 'write the report as JSON')
  .action(late(() => import('./commands/queue').then(m => m.queueCommand)))

try {
  // subcommands do not inherit the override
  program.commands.forEach(c => c.exitOverride())
  await program.parseAsync()
} catch (error) {
  if (!(error instanceof CommanderError)) throw error
  process.exitCode = error.exitCode === 0 ? 0 : 2
}
