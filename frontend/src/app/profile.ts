import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type StudioProfile } from './client';

const KEY = ['studio'];

/** The studio's name, its money and its order of dates; undefined before they are known. */
export function useProfile(): StudioProfile | undefined {
  return useQuery({ queryKey: KEY, queryFn: () => dataOf<StudioProfile>(api.GET('/api/studio')) }).data;
}

/** Says them anew. */
export function useSayProfile() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: StudioProfile) => dataOf<StudioProfile>(api.PUT('/api/studio', { body })),
    onSuccess: (said) => client.setQueryData(KEY, said),
  });
}
