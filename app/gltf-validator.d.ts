/** The package has no types of its own. */
declare module 'gltf-validator' {
  interface Report {
    readonly info: Readonly<Record<string, unknown>>
    readonly issues: { readonly numErrors: number; readonly numWarnings: number; readonly messages: readonly { readonly severity: number; readonly code: string; readonly message: string; readonly pointer?: string }[] }
  }
  export function validateBytes(bytes: Uint8Array): Promise<Report>
}
