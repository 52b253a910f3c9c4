import { fieldKinds } from '@wisteria/core'
import { defineAsyncComponent, type Component } from 'vue'
import AssetControl from './AssetControl.vue'
import BooleanControl from './BooleanControl.vue'
import ChoiceControl from './ChoiceControl.vue'
import DateControl from './DateControl.vue'
import EntryControl from './EntryControl.vue'
import JsonControl from './JsonControl.vue'
import LineControl from './LineControl.vue'
import ListingControl from './ListingControl.vue'
import LocationControl from './LocationControl.vue'
import MetadataControl from './MetadataControl.vue'
import NestedControl from './NestedControl.vue'
import NumberControl from './NumberControl.vue'
import SlugControl from './SlugControl.vue'
import TextControl from './TextControl.vue'

/** The control of each field kind. */
const controls: Readonly<Record<string, Component>> = {
  text: TextControl,
  longText: TextControl,
  // A large editor: it is loaded with the first rich text.
  richText: defineAsyncComponent(() => import('./RichTextControl.vue')),
  slug: SlugControl,
  number: NumberControl,
  boolean: BooleanControl,
  date: DateControl,
  dateTime: DateControl,
  timeSpan: LineControl,
  choice: ChoiceControl,
  colour: LineControl,
  email: LineControl,
  webAddress: LineControl,
  location: LocationControl,
  json: JsonControl,
  entry: EntryControl,
  listing: ListingControl,
  asset: AssetControl,
  block: NestedControl,
  group: NestedControl,
  metadata: MetadataControl,
}

const missing = fieldKinds.filter((kind) => !(kind.name in controls)).map((kind) => kind.name)
if (missing.length > 0) throw new Error(`these field kinds have no control: ${missing.join(', ')}`)

/** Kinds whose control handles multiple values itself; other kinds are listed, each value in a control of its own. */
const holdsMany = new Set(['entry', 'block', 'group', 'choice', 'asset'])

export const isListed = (kind: string, many: boolean): boolean => many && !holdsMany.has(kind)
export const controlOf = (kind: string): Component => controls[kind]!
