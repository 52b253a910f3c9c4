import { fieldKinds } from '@wisteria/core'
import type { Component } from 'vue'
import BlockControl from './BlockControl.vue'
import BooleanControl from './BooleanControl.vue'
import ChoiceControl from './ChoiceControl.vue'
import DateControl from './DateControl.vue'
import EntryControl from './EntryControl.vue'
import NumberControl from './NumberControl.vue'
import SlugControl from './SlugControl.vue'
import TextControl from './TextControl.vue'

/** The control of each field kind. */
const controls: Readonly<Record<string, Component>> = {
  text: TextControl,
  longText: TextControl,
  slug: SlugControl,
  number: NumberControl,
  boolean: BooleanControl,
  date: DateControl,
  dateTime: DateControl,
  choice: ChoiceControl,
  entry: EntryControl,
  block: BlockControl,
}

const missing = fieldKinds.filter((kind) => !(kind.name in controls)).map((kind) => kind.name)
if (missing.length > 0) throw new Error(`these field kinds have no control: ${missing.join(', ')}`)

/** Kinds whose control knows how to hold many by itself; many of any other are listed, each in the control of one. */
const holdsMany = new Set(['entry', 'block'])

export const isListed = (kind: string, many: boolean): boolean => many && !holdsMany.has(kind)
export const controlOf = (kind: string): Component => controls[kind]!
