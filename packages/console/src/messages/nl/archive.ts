/** A whole site as a file, and back. */
export const archive = {
  title: 'Archief',
  explained:
    'De hele site als één bestand: om te bewaren, om naar een andere dienst te verhuizen of om over te dragen. Het is een ZIP-bestand met JSON Lines en bestanden, dat andere programma’s ook lezen.',
  export: 'Deze site exporteren',
  contents: 'Inhoud',
  content: {
    everything: 'Alles',
    public: 'Alleen wat openbaar is',
  },
  contentExplained: {
    everything:
      'Model en instellingen met hun geschiedenis, items met alle revisies en concepten, bestanden, bewaarde weergaven, de woordenlijst, front-ends, automatiseringen en webhooks.',
    public:
      'Het model en de instellingen, en wat lezers van de gepubliceerde editie kunnen zien: geen concepten, geen geschiedenis, geen namen van mensen.',
  },
  without: 'Geheimen, toegangssleutels, leden, planningen en het gebeurtenissenlogboek staan er nooit in.',
  download: 'Het archief downloaden',
  import: 'Een archief importeren',
  notEmpty:
    'Een archief wordt geïmporteerd in een site zonder model, items en bestanden; {label} heeft die wel. Maak er een site voor.',
  importExplained:
    'Deze site krijgt de inhoud, het model en de instellingen van het archief, en houdt haar naam, leden en sleutels. Automatiseringen en webhooks staan eerst uit. Als het importeren mislukt, blijft er niets van achter.',
  choose: 'Kies een archief…',
  newIds: 'Items en bestanden nieuwe ID’s geven, voor een kopie van een site van deze dienst',
  site: 'Site',
  madeAt: 'Gemaakt',
  numbers: 'Omvang',
  revisions: '{n} revisie | {n} revisies',
  files: '{n} bestand | {n} bestanden',
  importIt: 'Het archief importeren',
}
