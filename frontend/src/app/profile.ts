import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type StudioProfile } from './client';

const KEY = ['studio'];
const REMEMBERED = 'ulvet-studio';
const UNTIL_KNOWN: StudioProfile = { name: '…', currency: '', dates: 'day-month-year' };

/** The studio's name, its money and its order of dates: as they were last known in this browser, until they are told. */
export function useProfile(): StudioProfile {
  const asked = useQuery({
    queryKey: KEY,
    queryFn: async () => remember(await dataOf<StudioProfile>(api.GET('/api/studio'))),
    placeholderData: remembered,
  });
  return asked.data ?? UNTIL_KNOWN;
}

/** Says them anew. */
export function useSayProfile() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: StudioProfile) => dataOf<StudioProfile>(api.PUT('/api/studio', { body })),
    onSuccess: (said) => client.setQueryData(KEY, remember(said)),
  });
}

function remember(profile: StudioProfile): StudioProfile {
  localStorage.setItem(REMEMBERED, JSON.stringify(profile));
  return profile;
}

function remembered(): StudioProfile {
  try {
    return { ...UNTIL_KNOWN, ...(JSON.parse(localStorage.getItem(REMEMBERED) ?? '{}') as object) };
  } catch {
    return UNTIL_KNOWN;
  }
}
