import { Menu, SegmentedControl, Switch, TextInput, UnstyledButton } from '@mantine/core'
import { IconChevronDown } from '@tabler/icons-react'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { usePerson, usePersonSettings } from '../data/queries.ts'
import classes from './head.module.css'

/** The head line of every page: where one is, and the person's own settings. */
export function Head({ children, right }: { children?: ReactNode; right?: ReactNode }) {
  return (
    <header className={`${classes.head} no-print`}>
      <Link to="/" className={classes.mark} aria-label="Canter, to this week">
        <img src="/icon.svg" alt="" width={20} height={20} />
        <span>Canter</span>
      </Link>
      <div className={classes.middle}>{children}</div>
      {right}
      <PersonMenu />
    </header>
  )
}

function PersonMenu() {
  const person = usePerson()
  const { mutate } = usePersonSettings()
  return (
    <Menu width={270} position="bottom-end" closeOnItemClick={false} trapFocus>
      <Menu.Target>
        <UnstyledButton className={classes.person} aria-label={`Settings of ${person.name}`}>
          <span>{person.name}</span>
          <span className="quiet"> · {person.units === 'us' ? 'US units' : 'metric'}</span>
          <IconChevronDown size={14} />
        </UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        <div className={classes.settings}>
          <TextInput
            label="Your name, as it stands in the records"
            defaultValue={person.name}
            maxLength={80}
            onBlur={(event) => {
              const name = event.currentTarget.value.trim()
              if (name && name !== person.name) mutate({ name })
            }}
          />
          <div>
            <div className="small quiet">Units you read and type</div>
            <SegmentedControl
              fullWidth
              size="xs"
              aria-label="Units"
              value={person.units}
              onChange={(units) => mutate({ units: units })}
              data={[
                { value: 'metric', label: 'Metric' },
                { value: 'us', label: 'US customary' },
              ]}
            />
          </div>
          <div>
            <div className="small quiet">Paper</div>
            <SegmentedControl
              fullWidth
              size="xs"
              aria-label="Light or dark"
              value={person.theme}
              onChange={(theme) => mutate({ theme: theme })}
              data={[
                { value: 'light', label: 'Light' },
                { value: 'dark', label: 'Dark' },
                { value: 'auto', label: 'As the device' },
              ]}
            />
          </div>
          <Switch
            label="Alt with a number changes step"
            checked={person.shortcuts}
            onChange={(event) => mutate({ shortcuts: event.currentTarget.checked })}
          />
        </div>
      </Menu.Dropdown>
    </Menu>
  )
}
