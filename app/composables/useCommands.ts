import { landmarksOf } from '@chiraxis/core/landmarks'
import { roleLabel } from '@chiraxis/core/body'

export interface NamedCommand {
  readonly name: string
  readonly key?: string
  readonly run: () => void
}

/** Every action that can be found by name. */
export function useCommands() {
  const view = useView()
  const tour = useTour()
  const project = useProject()
  const derived = useDerived()
  const player = usePlayer()
  const files = useFiles()
  const commands = computed<NamedCommand[]>(() => [
    { name: 'Go to Shape: straighten', run: () => view.go('straighten') },
    { name: 'Go to Shape: check', run: () => view.go('check') },
    { name: 'Go to Shape: pieces', run: () => view.go('pieces') },
    { name: 'Go to Bones: hands', run: () => view.go('hands') },
    { name: 'Go to Bones: axes', run: () => view.go('axes') },
    { name: 'Go to Bones: names', run: () => view.go('names') },
    { name: 'Go to Bones: landmarks', run: () => view.go('landmarks') },
    { name: 'Go to Bones: skeleton', run: () => view.go('skeleton') },
    { name: 'Go to Bones: rest pose', run: () => view.go('rest') },
    { name: 'Go to Bones: skin', run: () => view.go('skin') },
    {
      name: 'Draw a chain on the joint in play',
      run: () => {
        view.go('skeleton')
        useChainDraw().begin()
      },
    },
    { name: 'Choose all joints', run: () => useChosen().all() },
    {
      name: 'Skin: repair weights',
      run: () => {
        view.go('skin')
        view.skinMode = 'repair'
      },
    },
    {
      name: 'Skin: correctives',
      run: () => {
        view.go('skin')
        view.skinMode = 'correct'
      },
    },
    {
      name: 'Skin: check poses',
      run: () => {
        view.go('skin')
        view.skinMode = 'check'
      },
    },
    { name: 'Go to Motion: takes', run: () => view.go('takes') },
    { name: 'Go to Motion: role map', run: () => view.go('map') },
    { name: 'Go to Motion: rest match', run: () => view.go('match') },
    { name: 'Go to Motion: tune', run: () => view.go('tune') },
    { name: 'Go to Motion: layer', run: () => view.go('layer') },
    { name: 'Go to Motion: ground', run: () => view.go('ground') },
    { name: 'Go to Motion: compare', run: () => view.go('compare') },
    { name: 'Go to Motion: batch', run: () => view.go('batch') },
    { name: 'Go to Trial: walkabout', run: () => view.go('walkabout') },
    { name: 'Go to Trial: states', run: () => view.go('states') },
    { name: 'Go to Trial: crowd', run: () => view.go('crowd') },
    { name: 'Go to Delivery', run: () => view.go('deliver') },
    { name: 'A short tour', run: () => void tour.begin() },
    { name: 'Play or pause', key: 'Space', run: () => player.toggle() },
    ...(project.undoable ? [{ name: `Undo: ${project.undoable}`, key: 'Ctrl+Z', run: () => project.stepBack() }] : []),
    ...(project.redoable
      ? [{ name: `Redo: ${project.redoable}`, key: 'Ctrl+Shift+Z', run: () => project.stepForward() }]
      : []),
    {
      name: 'Projects: open, duplicate, delete',
      key: 'Ctrl+O',
      run: () => {
        view.shelfOpen = true
      },
    },
    { name: 'Save the project to a file', key: 'Ctrl+S', run: () => void files.saveProject() },
    { name: 'Open a body, motion or project file', run: () => files.pick() },
    { name: 'Open the sample: Oda Marl', run: () => void files.openSample('oda-marl') },
    { name: 'Open the sample: Pim', run: () => void files.openSample('pim') },
    { name: 'Open the sample: Tolly', run: () => void files.openSample('tolly') },
    { name: 'Open the sample: Brindle', run: () => void files.openSample('brindle') },
    { name: 'Open the sample: Reed, a heron', run: () => void files.openSample('reed') },
    { name: 'Open the sample: Oda, scanned', run: () => void files.openSample('oda-scanned') },
    { name: 'Open the sample: Pim, received', run: () => void files.openSample('pim-received') },
    { name: 'Mend everything that can be mended', run: () => void derived.mendEverything() },
    {
      name: 'Show the findings',
      run: () => {
        view.findingsOpen = true
      },
    },
    {
      name: view.theme === 'day' ? 'Night theme' : 'Day theme',
      run: () => view.setTheme(view.theme === 'day' ? 'night' : 'day'),
    },
    { name: 'Large view: front', key: '1', run: () => view.makeMain('front') },
    { name: 'Large view: side', key: '2', run: () => view.makeMain('side') },
    { name: 'Large view: top', key: '3', run: () => view.makeMain('top') },
    { name: 'Large view: turn', key: '0', run: () => view.makeMain('turn') },
    ...landmarksOf(derived.plan).map(l => ({
      name: `Landmark: ${l.label}`,
      run: () => {
        view.go(l.group.endsWith(' hand') ? 'hands' : 'landmarks')
        view.landmark = l.id
      },
    })),
    ...(derived.skeleton?.names.map((n, j) => ({
      name: `Joint: ${derived.skeleton!.roles[j] ? roleLabel(derived.skeleton!.roles[j]!) : n}`,
      run: () => {
        view.go('skeleton')
        derived.joint = j
      },
    })) ?? []),
    ...project.recipe.takes.map(t => ({
      name: `Take: ${t.name} (${t.performer})`,
      run: () => {
        view.go('takes')
        void derived.showTake(t.id)
      },
    })),
  ])
  return { commands }
}
