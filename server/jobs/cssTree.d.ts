/** The parts of css-tree that are used; its own types have the main entry only. */
declare module 'css-tree/tokenizer' {
  export function tokenize(source: string, onToken: (type: number, start: number, end: number) => void): void
  export const tokenTypes: Readonly<Record<'Ident' | 'Function' | 'AtKeyword' | 'Hash' | 'String' | 'BadString' | 'Url' | 'BadUrl' | 'Dimension' | 'WhiteSpace' | 'Comma' | 'LeftParenthesis' | 'RightParenthesis' | 'Comment', number>>
}
declare module 'css-tree/utils' {
  export const ident: { decode(raw: string): string }
  export const string: { decode(raw: string): string }
  export const url: { decode(raw: string): string }
}
