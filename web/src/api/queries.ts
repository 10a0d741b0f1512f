import type { Person, PersonSettings, TrialDraft, TrialFile, TrialSummary } from '@canter/core/trial'
import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { request } from './client.ts'

const personQuery = queryOptions({
  queryKey: ['person'],
  queryFn: async () => {
    try {
      const person = await request<Person>('GET', '/api/person')
      localStorage.setItem('canter.person', JSON.stringify(person))
      return person
    } catch (error) {
      const kept = localStorage.getItem('canter.person')
      if (kept) return JSON.parse(kept) as Person
      throw error
    }
  },
  staleTime: 60_000,
})

export const trialsQuery = (deleted: boolean) =>
  queryOptions({
    queryKey: ['trials', deleted],
    queryFn: async () => (await request<{ trials: TrialSummary[] }>('GET', `/api/trials?deleted=${deleted ? 'yes' : 'no'}`)).trials,
  })

/** The person at this desk; metric until known. */
export function usePerson(): Person {
  const { data } = useQuery(personQuery)
  return data ?? { id: '00000000-0000-7000-8000-000000000001', name: 'You', units: 'metric', shortcuts: true, theme: 'auto' }
}

export function usePersonSettings() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (settings: PersonSettings) => request<Person>('PUT', '/api/person', settings),
    onMutate: (settings) => client.setQueryData(personQuery.queryKey, (before) => (before ? { ...before, ...settings } : before)),
    onSuccess: (person) => client.setQueryData(personQuery.queryKey, person),
  })
}

export function useCreateTrial() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (draft: TrialDraft) => request<TrialFile>('POST', '/api/trials', draft),
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
      restore
        ? request<TrialFile>('POST', `/api/trials/${id}/restore`, { version, reason: '' })
        : request<TrialFile>('DELETE', `/api/trials/${id}`, { version, reason: '' }),
    onSettled: () => client.invalidateQueries({ queryKey: ['trials'] }),
  })
}

export function useImportPackage() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: ({ file, copy }: { file: Blob; copy: boolean }) =>
      request<TrialFile>('POST', `/api/packages?as=${copy ? 'copy' : 'same'}`, file),
    onSuccess: () => client.invalidateQueries({ queryKey: ['trials'] }),
  })
}
