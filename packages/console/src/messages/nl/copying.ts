/** Copying from another site. */
export const copying = {
  title: 'Kopiëren van een andere site',
  explained:
    'Neemt het model of de inhoud over van een andere site waar je lid van bent. De kopieën horen bij deze site: latere wijzigingen daar worden niet overgenomen.',
  noOther: 'Je bent van geen andere site lid.',
  from: 'Kopiëren van',
  choose: 'Kies een site',
  model: 'Model',
  modelExplained:
    'Toont wat hier zou veranderen, voordat er iets verandert. Paden in talen die deze site niet heeft, vallen weg.',
  compare: 'Modellen vergelijken…',
  whatTakingChanges: 'Wat er verandert met het model van {label}',
  content: 'Inhoud',
  types: 'Typen',
  references: 'Ook de items waar deze naar verwijzen',
  publish: 'De kopieën publiceren waar hun origineel openbaar is',
  work: 'Plan tonen',
  plan: 'Plan',
  entries: 'Items',
  refused: 'Kan niet gekopieerd worden',
  files: '1 bestand, {size} | {n} bestanden, {size}',
  localesLeftOut: 'Teksten in {locales} vallen weg: deze site heeft die taal niet.',
  referencesLeftOut:
    '1 verwijzing naar een item dat niet gekopieerd wordt, valt weg. | {n} verwijzingen naar items die niet gekopieerd worden, vallen weg.',
  copy: '1 item kopiëren | {n} items kopiëren',
  done: 'Gekopieerd: {message}',
} as const
