import { Button, Group } from '@mantine/core'
import { notifications } from '@mantine/notifications'
import { useEffect } from 'react'
import { registerSW } from 'virtual:pwa-register'

/** Keeps the pages on the device for use with no signal, and asks before taking a newer version. */
export function NewVersion() {
  useEffect(() => {
    const update = registerSW({
      onNeedRefresh: () =>
        notifications.show({
          title: 'A new version of Canter is here',
          autoClose: false,
          message: (
            <Group mt={6}>
              <Button size="compact-sm" onClick={() => void update(true)}>
                Load it
              </Button>
            </Group>
          ),
        }),
    })
  }, [])
  return null
}
