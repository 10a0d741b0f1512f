import { bareGround, bareSite, type Ground, type Site } from '@canter/core/trial'
import { Button, Group, Menu } from '@mantine/core'
import { notifications } from '@mantine/notifications'
import { useOpenTrial } from '../data/open-trial.ts'
import { useAddToShelf, useShelf } from '../data/queries.ts'
import { useSaving } from '../data/saving.ts'
import { useRandomise } from '../data/trial-file.ts'
import { useSelection } from '../data/selection.ts'

/** Another site, empty or from the shelf; this one to the shelf, or out of the trial. */
export function SiteActs() {
  const { trial, site, layouts, fixed } = useOpenTrial()
  const { save, remember } = useSaving()
  const { mutate: lay } = useRandomise(trial.id)
  const selection = useSelection()
  const shelf = useShelf()
  const { mutate: toShelf } = useAddToShelf()
  const offered = shelf.filter((item) => item.kind === 'site' && !trial.sites.some((each) => each.name === item.name))
  const add = async (from: Pick<Site, 'name' | 'soil' | 'ground' | 'facts' | 'shelf'>): Promise<void> => {
    const key = freeSiteKey(trial.sites)
    const saved = await save('sites', {
      [key]: { ...from, key, design: site.design, without: site.without, season: null, again: null } satisfies Site,
    })
    if (saved.ok) selection.set({ site: key, plot: null })
    else if (!saved.left) notifications.show({ color: 'red', title: 'Not added', message: saved.problem })
  }
  // A site that is itself a later season goes on from the plots it stands on.
  const ground = trial.sites.find((each) => each.key === (site.again ?? site.key))!
  const first = layouts.some((layout) => layout.siteKey === ground.key) ? ground : null
  const addSeason = async (of: Site): Promise<void> => {
    const seasons = trial.sites
      .filter((each) => each.key === of.key || each.again === of.key)
      .map((each) => each.season ?? trial.question.season)
    const season = Math.max(...seasons) + 1
    const key = freeSiteKey(trial.sites)
    const name = `${of.name.replace(/\s*\b(19|20)\d\d\b/, '')} ${season}`.trim()
    const saved = await save('sites', { [key]: { ...of, key, name, season, again: of.key } satisfies Site })
    if (saved.ok)
      lay(
        { site: key, seed: 0, reason: '' },
        {
          onSuccess: remember,
          onError: (error) => notifications.show({ color: 'red', title: 'The plots were not taken over', message: error.message }),
          onSettled: () => selection.set({ site: key, plot: null }),
        },
      )
    else if (!saved.left) notifications.show({ color: 'red', title: 'Not added', message: saved.problem })
  }
  const from = shelf.find((item) => item.id === site.shelf)
  const differing = from?.kind === 'site' ? changedOnShelf(site, from.body) : []
  return (
    <Group gap="xs" mt={6}>
      {from?.kind === 'site' && (
        <p className="small quiet" style={{ margin: 0, width: '100%' }} data-testid="from-shelf">
          Started from {from.name} on the shelf.{' '}
          {differing.length > 0 && (
            <>
              Changed there since: {differing.map((each) => each.name).join(', ')}. Nothing changes here by itself.{' '}
              <button
                type="button"
                className="link-button"
                onClick={() => void save(`site:${site.key}`, Object.fromEntries(differing.flatMap((each) => Object.entries(each.patch))))}
              >
                Take it over
              </button>
            </>
          )}
        </p>
      )}
      <Menu position="bottom-start">
        <Menu.Target>
          <Button size="compact-sm" variant="outline">
            Add a site
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item
            onClick={() =>
              void add({
                name: `Site ${trial.sites.length + 1}`,
                soil: '',
                ground: likeMeasures(site.ground),
                facts: bareSite.facts,
                shelf: null,
              })
            }
          >
            Like this one, to be named
          </Menu.Item>
          {first && <Menu.Item onClick={() => void addSeason(first)}>The same plots of {first.name} again, next season</Menu.Item>}
          {offered.length > 0 && <Menu.Label>From the shelf</Menu.Label>}
          {offered.map(
            (item) =>
              item.kind === 'site' && (
                <Menu.Item
                  key={item.id}
                  onClick={() =>
                    void add({ name: item.name, ...item.body, ground: asItLies(site.ground, item.body.ground), shelf: item.id })
                  }
                >
                  {item.name}
                </Menu.Item>
              ),
          )}
        </Menu.Dropdown>
      </Menu>
      {offered.length > 0 && !fixed && site.shelf === null && (
        <Menu position="bottom-start">
          <Menu.Target>
            <Button size="compact-sm" variant="subtle">
              Take this site from the shelf
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            {offered.map(
              (item) =>
                item.kind === 'site' && (
                  <Menu.Item key={item.id} onClick={() => void save(`site:${site.key}`, fromShelf(item.id, item.name, item.body))}>
                    {item.name}
                  </Menu.Item>
                ),
            )}
          </Menu.Dropdown>
        </Menu>
      )}
      <Button
        size="compact-sm"
        variant="subtle"
        onClick={() =>
          toShelf(
            { kind: 'site', name: site.name, body: { soil: site.soil, ground: site.ground, facts: site.facts } },
            { onSuccess: () => notifications.show({ message: `${site.name} is on the shelf for other trials.` }) },
          )
        }
      >
        Keep on the shelf
      </Button>
      {trial.sites.length > 1 && !fixed && (
        <Button
          size="compact-sm"
          variant="subtle"
          onClick={() =>
            void save('sites', { [site.key]: null }).then((saved) => {
              if (saved.ok) selection.set({ site: null, plot: null })
            })
          }
        >
          Take it out of the trial
        </Button>
      )}
    </Group>
  )
}

/** The measures of a ground without what is said of one piece of it: where it lies, its edge, what is avoided there. */
function likeMeasures(ground: Ground): Ground {
  const { anchor, bearing, gradient, outline, avoid, moved, parts } = bareGround
  return { ...ground, anchor, bearing, gradient, outline, avoid, moved, parts, numbering: { ...ground.numbering, own: {} } }
}

/** What is said of a piece of ground whatever stands on it: where it lies, its edge, what is avoided, what changes across it. */
function pieceOf({
  anchor,
  bearing,
  gradient,
  outline,
  avoid,
}: Ground): Pick<Ground, 'anchor' | 'bearing' | 'gradient' | 'outline' | 'avoid'> {
  return { anchor, bearing, gradient, outline, avoid }
}

/** The measures of this trial on a piece of ground from the shelf. */
function asItLies(measures: Ground, piece: Ground): Ground {
  return { ...likeMeasures(measures), ...pieceOf(piece) }
}

/** What changes when a site that is there already is said to be one of the shelf; its measures stay. */
function fromShelf(shelf: string, name: string, { soil, facts, ground }: Pick<Site, 'soil' | 'facts' | 'ground'>): Record<string, unknown> {
  const said = Object.entries(facts).map(([key, value]) => [`facts.${key}`, value] as [string, unknown])
  const lies = Object.entries(pieceOf(ground)).map(([key, value]) => [`ground.${key}`, value] as [string, unknown])
  const fields: [string, unknown][] = [...said, ...lies]
  return { name, soil, shelf, ...(Object.fromEntries(fields) as Record<string, unknown>) }
}

/** What the shelf says otherwise of the same piece of ground: its facts, not the measures of this trial. */
function changedOnShelf(site: Site, body: Pick<Site, 'soil' | 'facts' | 'ground'>): { name: string; patch: Record<string, unknown> }[] {
  const differs = (a: unknown, b: unknown): boolean => JSON.stringify(a) !== JSON.stringify(b)
  const facts = Object.entries({ place: 'place', history: 'history', troubles: 'what it suffers from', crops: 'previous crops', soilTests: 'soil tests' }) // prettier-ignore
  const { anchor, bearing } = body.ground
  return [
    ...(site.soil === body.soil ? [] : [{ name: 'soil and slope', patch: { soil: body.soil } }]),
    ...facts.flatMap(([key, name]) => {
      const [own, there] = [site.facts[key as keyof Site['facts']], body.facts[key as keyof Site['facts']]]
      return differs(own, there) ? [{ name, patch: { [`facts.${key}`]: there } }] : []
    }),
    ...(differs([site.ground.anchor, site.ground.bearing], [anchor, bearing]) ? [{ name: 'where it lies', patch: { 'ground.anchor': anchor, 'ground.bearing': bearing } }] : []), // prettier-ignore
  ]
}

function freeSiteKey(sites: readonly Site[]): string {
  let n = sites.length + 1
  while (sites.some((each) => each.key === `site-${n}`)) n++
  return `site-${n}`
}
