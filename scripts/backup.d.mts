interface Place {
  readonly databaseUrl: string
  readonly storage: string
  readonly file: string
}
export function backUp(place: Place): Promise<string>
export function restore(place: Place & { readonly keepIn?: string }): Promise<string>
