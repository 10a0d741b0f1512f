import type { Site } from '@canter/core/trial'
import { Button, Group, Menu } from '@mantine/core'
import { notifications } from '@mantine/notifications'
import { useOpenTrial } from '../data/open-trial.ts'
import { useAddToShelf, useShelf } from '../data/queries.ts'
import { useSaving } from '../data/saving.ts'
import { useSelection } from '../data/selection.ts'

/** Another site, empty or from the shelf; this one to the shelf, or out of the trial. */
export function SiteActs() {
  const { trial, site, fixed } = useOpenTrial()
  const { save } = useSaving()
  const selection = useSelection()
  const shelf = useShelf()
  const { mutate: toShelf } = useAddToShelf()
  const offered = shelf.filter((item) => item.kind === 'site' && !trial.sites.some((each) => each.name === item.name))
  const add = async (from: Pick<Site, 'name' | 'soil' | 'ground'>): Promise<void> => {
    let n = trial.sites.length + 1
    while (trial.sites.some((each) => each.key === `site-${n}`)) n++
    const key = `site-${n}`
    const saved = await save('sites', { [key]: { ...from, key, design: site.design, without: site.without, season: null } satisfies Site })
    if (saved.ok) selection.set({ site: key, plot: null })
    else if (!saved.left) notifications.show({ color: 'red', title: 'Not added', message: saved.problem })
  }
  return (
    <Group gap="xs" mt={6}>
      <Menu position="bottom-start">
        <Menu.Target>
          <Button size="compact-sm" variant="outline">
            Add a site
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => void add({ name: `Site ${trial.sites.length + 1}`, soil: '', ground: site.ground })}>
            Like this one, to be named
          </Menu.Item>
          {offered.length > 0 && <Menu.Label>From the shelf</Menu.Label>}
          {offered.map(
            (item) =>
              item.kind === 'site' && (
                <Menu.Item key={item.id} onClick={() => void add({ name: item.name, soil: item.body.soil, ground: item.body.ground })}>
                  {item.name}
                </Menu.Item>
              ),
          )}
        </Menu.Dropdown>
      </Menu>
      <Button
        size="compact-sm"
        variant="subtle"
        onClick={() =>
          toShelf(
            { kind: 'site', name: site.name, body: { soil: site.soil, ground: site.ground } },
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
