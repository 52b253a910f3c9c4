import ts from 'typescript'
import { parse } from 'vue/compiler-sfc'

type Template = NonNullable<NonNullable<ReturnType<typeof parse>['descriptor']['template']>['ast']>
type Node = Template['children'][number]

/** Attributes that people see or hear. */
const spoken = new Set([
  'title', 'aria-label', 'placeholder', 'label', 'alt', 'content', 'submit', 'verb', 'safe', 'no-data-text',
  'confirm-button-text', 'cancel-button-text',
]) // prettier-ignore

const words = /\p{L}{2}/u
/** A sentence, a phrase or a word as an interface writes it, and no identifier. */
const isPhrase = (text: string): boolean =>
  words.test(text) &&
  // `UTC`, `POST`: a name.
  !/^\p{Lu}+$/u.test(text) &&
  (/^\s*[\p{Lu}“][\p{L}’…?!.]*(\s|$)/u.test(text) || /(\p{L}{2,}|[\d…]) \p{L}{2,}/u.test(text))

/** Strings that are not shown: compared, looked up, imported, thrown at developers, or keys of the catalogue. */
function isForPrograms(node: ts.Node): boolean {
  const { parent } = node
  if (ts.isImportDeclaration(parent) || ts.isLiteralTypeNode(parent) || ts.isCaseClause(parent)) return true
  if (ts.isBinaryExpression(parent)) return /^[!=]==?$/.test(parent.operatorToken.getText())
  if (ts.isNewExpression(parent)) return parent.expression.getText() === 'Error'
  if (ts.isPropertyAssignment(parent) && parent.name === node) return true
  if (ts.isArrayLiteralExpression(parent)) return /\.includes$/.test(parent.parent.getText())
  return (
    ts.isCallExpression(parent) &&
    /(^t|querySelector(All)?|closest|matches|matchMedia|setRequestHeader)(<\w+>)?$/.test(parent.expression.getText())
  )
}

function inScript(source: string): string[] {
  const results: string[] = []
  const visit = (node: ts.Node): void => {
    if (ts.isStringLiteralLike(node) && isPhrase(node.text) && !isForPrograms(node)) results.push(node.text)
    if (ts.isTemplateExpression(node)) {
      const text = [node.head.text, ...node.templateSpans.map((span) => span.literal.text)].join('…')
      if (isPhrase(text) && !isForPrograms(node)) results.push(text)
    }
    ts.forEachChild(node, visit)
  }
  visit(ts.createSourceFile('source.ts', source, ts.ScriptTarget.Latest, true))
  return results
}

function inTemplate(node: Template | Node): string[] {
  const results: string[] = []
  // Numbers of the syntax tree of Vue's templates: 1 an element, 2 a text, 5 an interpolation, 6 an attribute, 7 a directive.
  if (node.type === 2 && words.test(node.content)) results.push(node.content.trim())
  if (node.type === 5) results.push(...inScript(node.content.loc.source))
  // The content of `code` is typed, not read.
  if (node.type === 1 && node.tag === 'code') return results
  if (node.type === 1)
    for (const prop of node.props) {
      if (prop.type === 6 && spoken.has(prop.name) && words.test(prop.value?.content ?? ''))
        results.push(prop.value!.content)
      if (prop.type === 7 && prop.exp && prop.name !== 'for' && prop.name !== 'slot')
        results.push(...inScript(`(${prop.exp.loc.source})`))
    }
  if ('children' in node) for (const child of node.children) results.push(...inTemplate(child as Node))
  return results
}

/**
 * The texts that a component or a module shows without asking the catalogue for them.
 * @param source of a `.vue` or a `.ts` file.
 */
export function textsInSource(name: string, source: string): string[] {
  if (!name.endsWith('.vue')) return inScript(source)
  const { descriptor } = parse(source)
  const script = inScript(descriptor.scriptSetup?.content ?? descriptor.script?.content ?? '')
  return [...script, ...(descriptor.template?.ast ? inTemplate(descriptor.template.ast) : [])]
}
