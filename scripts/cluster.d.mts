export interface Cluster {
  readonly url: string
  readonly folder: string
  readonly data: string
  readonly port: number
  readonly startedNow: boolean
  psql(database: string, sql: string): string
}
export function clusterFolder(name: string): string
export function startCluster(options: { readonly name: string; readonly port?: number; readonly fast?: boolean; readonly database?: string }): Promise<Cluster>
export function removeCluster(cluster: Pick<Cluster, 'folder' | 'data'>): void
