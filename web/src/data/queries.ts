import {
  api,
  type Person,
  type PersonSettings,
  type ShelfItem,
  type ShelfItemDraft,
  type ShelfPatch,
  type TrialDraft,
  type TrialSummary,
} from '@canter/core/trial'
import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { call, NoAnswer } from './client.ts'

/** For when there is no answer. A store that is full does not keep the answer from being shown. */
function remember(key: string, value: unknown): void {
  try {
    localStorage.setItem(key, JSON.stringify(value))
  } catch {
    localStorage.removeItem(key)
  }
}

const personQuery = queryOptions({
  queryKey: ['person'],
  queryFn: async () => {
    try {
      const person = await call(api.person, {})
      remember('canter.person', person)
      return person
    } catch (error) {
      const kept = localStorage.getItem('canter.person')
      if (kept) return JSON.parse(kept) as Person
      throw error
    }
  },
  staleTime: 60_000,
})

const peopleQuery = queryOptions({
  queryKey: ['people'],
  queryFn: async () => {
    try {
      const { people } = await call(api.people, {})
      remember('canter.people', people)
      return people
    } catch (error) {
      const kept = localStorage.getItem('canter.people')
      if (kept) return JSON.parse(kept) as Pick<Person, 'id' | 'name'>[]
      throw error
    }
  },
  staleTime: 60_000,
})

export const trialsQuery = (deleted: boolean) =>
  queryOptions({
    queryKey: ['trials', deleted],
    queryFn: () => listed(deleted),
  })

/** The list, or without an answer the one this device heard last; what was put aside is not needed in the field. */
async function listed(deleted: boolean): Promise<TrialSummary[]> {
  try {
    const { trials } = await call(api.trials, { query: { deleted: deleted ? 'yes' : 'no' } })
    if (!deleted) remember('canter.trials', trials)
    return trials
  } catch (error) {
    const kept = deleted || !(error instanceof NoAnswer) ? null : localStorage.getItem('canter.trials')
    if (kept) return JSON.parse(kept) as TrialSummary[]
    throw error
  }
}

const shelfQuery = queryOptions({ queryKey: ['shelf'], queryFn: async () => (await call(api.shelf, {})).items, staleTime: 30_000 })

/** The person at this desk; metric until known. */
export function usePerson(): Person {
  const { data } = useQuery(personQuery)
  return data ?? { id: '00000000-0000-7000-8000-000000000001', name: 'You', units: 'metric', shortcuts: true, theme: 'auto' }
}

/** Everybody who may be named as observer; the person at this desk first. */
export function usePeople(): readonly Pick<Person, 'id' | 'name'>[] {
  const person = usePerson()
  const { data } = useQuery(peopleQuery)
  return [person, ...(data ?? []).filter((each) => each.id !== person.id)]
}

export function useAddPerson() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (name: string) => call(api.addPerson, { body: { name } }),
    onSuccess: ({ people }) => client.setQueryData(peopleQuery.queryKey, people),
  })
}

export function usePersonSettings() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (settings: PersonSettings) => call(api.personSettings, { body: settings }),
    onMutate: (settings) => client.setQueryData(personQuery.queryKey, (before) => (before ? { ...before, ...settings } : before)),
    onSuccess: (person) => client.setQueryData(personQuery.queryKey, person),
  })
}

export function useCreateTrial() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (draft: TrialDraft) => call(api.createTrial, { body: draft }),
    onSuccess: (file) => {
      client.setQueryData(['trial', file.trial.id], file)
      void client.invalidateQueries({ queryKey: ['trials'] })
    },
  })
}

export function useDeleteTrial() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: ({ id, version, restore }: { id: string; version: number; restore: boolean }) =>
      call(restore ? api.restoreTrial : api.deleteTrial, { params: { trial: id }, body: { version } }),
    onSettled: () => client.invalidateQueries({ queryKey: ['trials'] }),
  })
}

export function useImportPackage() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: ({ file, copy }: { file: Blob; copy: boolean }) =>
      call(api.importPackage, { query: { as: copy ? 'copy' : 'same' }, bytes: file }),
    onSuccess: () => client.invalidateQueries({ queryKey: ['trials'] }),
  })
}

/** Ground and products that trials can start from; empty until known. */
export function useShelf() {
  return useQuery(shelfQuery).data ?? NOTHING
}
const NOTHING: ShelfItem[] = []

/** Changes fields of something on the shelf. */
export function useChangeShelf() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: ({ item, patch }: { item: string; patch: ShelfPatch }) => call(api.changeShelf, { params: { item }, body: patch }),
    onSuccess: () => client.invalidateQueries({ queryKey: shelfQuery.queryKey }),
  })
}

export function useTakeOffShelf() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (item: string) => call(api.takeOffShelf, { params: { item } }),
    onSuccess: () => client.invalidateQueries({ queryKey: shelfQuery.queryKey }),
  })
}

export function useAddToShelf() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (item: ShelfItemDraft) => call(api.addToShelf, { body: item }),
    onSuccess: () => client.invalidateQueries({ queryKey: shelfQuery.queryKey }),
  })
}
