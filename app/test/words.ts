import { readFileSync } from 'node:fs'
import { NodeTypes, parse as parseTemplate, type RootNode, type TemplateChildNode } from '@vue/compiler-dom'
import { parse as parseFile } from '@vue/compiler-sfc'
import ts from 'typescript'

/** One string somebody may read, and where it stands. */
export interface Words {
  file: string
  line: number
  text: string
  /** Whether a bench begins with it. */
  opening?: boolean
}

/** What stands in attributes and is never read by anybody. */
const UNREAD =
  /^(class|style|id|key|ref|type|role|name|href|d|fill|stroke.*|viewBox|transform|data-.*|for|as|as-child|slot|inputmode|autocomplete|accept|preload|rel|align|side|kind|value|step|tabindex|x\d?|y\d?|r|rx|ry|points|(text-)?anchor|vector-effect|pointer-events|dominant-baseline|aria-(live|controls|labelledby|describedby|haspopup|current|orientation|hidden)|enter-?.*|leave-?.*)$/i

/**
 * Collects what a file of the program may show: text and attributes of a template, and the strings of its script.
 * @param file path of a .vue or .ts file
 * @returns every string with letters in it; of scripts those that read as words (told by `readable`)
 */
export function wordsIn(file: string): Words[] {
  const source = readFileSync(file, 'utf8')
  if (!file.endsWith('.vue')) return scriptWords(file, source, 0)
  const { descriptor } = parseFile(source, { filename: file })
  const out: Words[] = []
  for (const block of [descriptor.script, descriptor.scriptSetup])
    if (block) out.push(...scriptWords(file, block.content, block.loc.start.line - 1))
  if (descriptor.template)
    walk(file, parseTemplate(descriptor.template.content), descriptor.template.loc.start.line - 1, out)
  return out
}

function walk(file: string, node: RootNode | TemplateChildNode, from: number, out: Words[]): void {
  const say = (text: string, line: number, opening = false): void => {
    const plain = text.replace(/\s+/g, ' ').trim()
    if (/[a-z]{2}/i.test(plain)) out.push({ file, line: line + from, text: plain, ...(opening && { opening }) })
  }
  const expression = (code: string, line: number, opening = false): void => {
    for (const w of scriptWords(file, `(${code})`, 0)) say(w.text, line, opening)
  }
  if (node.type === NodeTypes.TEXT) say(node.content, node.loc.start.line)
  if (node.type === NodeTypes.INTERPOLATION) expression(codeOf(node.content), node.loc.start.line)
  if (node.type === NodeTypes.ELEMENT)
    for (const p of node.props) {
      if (p.type === NodeTypes.ATTRIBUTE) {
        if (p.value && !UNREAD.test(p.name)) say(p.value.content, p.loc.start.line, p.name === 'sentence')
      } else if (p.exp && p.name !== 'for' && p.name !== 'slot') {
        const name = p.arg && 'content' in p.arg ? String(p.arg.content) : ''
        if (!UNREAD.test(name)) expression(codeOf(p.exp), p.loc.start.line, name === 'sentence')
      }
    }
  if ('children' in node)
    for (const child of node.children) if (typeof child === 'object') walk(file, child as TemplateChildNode, from, out)
}

const codeOf = (e: { loc: { source: string } }): string => e.loc.source

/** A string of a script that is not a name, a path or a class: it has a space, or begins with a capital. */
function readable(text: string): boolean {
  if (!/[a-z]{2}/i.test(text)) return false
  if (/^[A-Z][a-z]+[A-Z]|^[./#]|^[\w-]+:[\w-]/.test(text)) return false
  return /\p{L} |[ ]\p{L}/u.test(text) || /^[A-Z][a-z]/.test(text)
}

function scriptWords(file: string, code: string, from: number): Words[] {
  const tree = ts.createSourceFile('words.ts', code, ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX)
  const out: Words[] = []
  const say = (node: ts.Node, text: string): void => {
    const line = tree.getLineAndCharacterOfPosition(node.getStart()).line + 1 + from
    if (readable(text)) out.push({ file, line, text: text.replace(/\s+/g, ' ').trim() })
  }
  const visit = (node: ts.Node): void => {
    if (ts.isImportDeclaration(node) || ts.isLiteralTypeNode(node)) return
    if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) say(node, node.text)
    else if (ts.isTemplateExpression(node)) {
      say(node, node.head.text + node.templateSpans.map(s => `…${s.literal.text}`).join(''))
      for (const s of node.templateSpans) visit(s.expression)
      return
    }
    ts.forEachChild(node, visit)
  }
  visit(tree)
  return out
}
