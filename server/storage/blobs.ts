import { join } from 'node:path'
import type { BlobStore } from './blobStore'
import { createFolderStore } from './folderStore'
import { createS3Store } from './s3Store'

let store: BlobStore | null = null

/** A folder, or with RUBATO_S3_ENDPOINT any S3-compatible store. */
export function useBlobs(): BlobStore {
  store ??= openBlobs(process.env)
  return store
}

function openBlobs(env: NodeJS.ProcessEnv): BlobStore {
  const { RUBATO_S3_ENDPOINT: endpoint, RUBATO_S3_BUCKET: bucket, RUBATO_S3_KEY: accessKeyId, RUBATO_S3_SECRET: secretAccessKey, RUBATO_S3_REGION: region = 'us-east-1' } = env
  if (!endpoint) return createFolderStore(env.RUBATO_STORAGE_DIR ?? join(process.cwd(), 'data', 'blobs'))
  if (!bucket || !accessKeyId || !secretAccessKey) throw new Error('With RUBATO_S3_ENDPOINT, RUBATO_S3_BUCKET, RUBATO_S3_KEY and RUBATO_S3_SECRET are needed too.')
  return createS3Store({ endpoint, bucket, accessKeyId, secretAccessKey, region })
}
