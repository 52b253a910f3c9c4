import { createRequire } from 'node:module'

/** A text in a file, as another maker's tool shows it. */
export interface ToolUnit {
  sourceContent(): string
  /** `new`, `translated` or `final`. */
  targetState(): string
  setTargetState(state: string): void
  translate(text: string): void
}

/** A file with translations in another maker's tool. */
export interface ToolFile {
  forEachTransUnit(look: (unit: ToolUnit) => void): void
  editedContent(): string
}

// Its package has its sources for types, which do not compile here.
const { TranslationMessagesFileFactory: factory } = createRequire(import.meta.url)('ngx-i18nsupport-lib') as {
  TranslationMessagesFileFactory: {
    fromUnknownFormatFileContent(content: string, path: string, encoding: string): ToolFile
  }
}

/** Opens an XLIFF file of ours. The tool is one for version 2.0, which says the same of segments as 2.1. */
export const openInTool = (xliff: string): ToolFile =>
  factory.fromUnknownFormatFileContent(xliff.replace('version="2.1"', 'version="2.0"'), 'texts.xlf', 'utf-8')
