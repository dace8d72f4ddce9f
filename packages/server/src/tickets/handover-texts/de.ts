import type { HandoverTexts } from './en.js';

export const de: HandoverTexts = {
  title: 'Übergabeblatt',
  customer: 'Kundschaft',
  device: 'Gerät',
  deviceWithSerial: '{device}, Seriennummer {serial}',

  done: 'Was gemacht wurde',
  doneBackup: 'Kopiert',
  doneBackupText:
    'Am {date} wurde alles kopiert, was sich kopieren ließ: {items} Einträge, {size}.',
  doneBackupPart:
    'Am {date} wurde der Teil kopiert, den Sie gewählt haben: {items} Einträge, {size}.',
  doneProof: 'Geprüft',
  doneProofText: 'Die Kopie wurde am {date} mit ihrem Passwort geöffnet und war vollständig.',
  doneRepair: 'Repariert',
  doneRepairText: 'Ihr Gerät wurde repariert.',
  doneErase: 'Gelöscht',
  doneEraseText: 'Ihr Gerät wurde gelöscht, nachdem die Kopie geprüft war.',
  doneRestore: 'Zurückgespielt',
  doneRestoreText:
    '{items} Einträge sind auf {target} und wurden einzeln mit der Kopie verglichen.',
  doneCross: 'Übertragen',
  doneCrossText: '{items} Einträge wurden auf {target} übertragen und einzeln zurückgelesen.',
  doneCrossStayed: '{stayed} Einträge ließen sich nicht übertragen, wie besprochen.',
  doneBack: 'Nachrichten zurückgebracht',
  doneBackText:
    '{items} Nachrichten oder Anrufe aus einer Datei wurden auf {target} zurückgebracht, und jede wurde geprüft.',
  doneCheck: 'Mit Ihnen angesehen',
  doneCheckText: 'Sie haben es mit uns durchgesehen.',

  backup: 'Die Kopie',
  taken: 'Erstellt',
  takenText: '{date}: {items} Einträge, {size}',
  takenOlder: '{date}: {items} Einträge, {size}; daneben liegen {older} ältere',
  readBack: 'Geprüft',
  readBackDamaged: 'Teile sind beschädigt, siehe unten.',
  readBackNot: 'Noch nicht: Es ist nicht bewiesen, dass sie sich öffnen lässt.',
  readBackBytes: 'Alle Bytes sind da, {date}.',
  readBackWhole: 'Mit ihrem Passwort geöffnet und vollständig, {date}.',
  password: 'Passwort',
  passwordNone: 'Keines: Wer die Kopie hat, kann sie lesen.',
  passwordCustomer: 'Sie haben es. Ohne es kann niemand die Kopie öffnen.',
  passwordShop: 'Die Werkstatt hat es. Ohne es kann niemand die Kopie öffnen.',
  passwordBoth: 'Sie und die Werkstatt haben es. Ohne es kann niemand die Kopie öffnen.',
  passwordEscrow: 'Zwei Personen der Werkstatt zusammen können sie ohne es öffnen.',
  kept: 'Aufbewahrt',
  keptHeld: 'Von der Werkstatt, bis sie etwas anderes sagt.',
  keptUntilTold: 'Bis Sie es der Werkstatt sagen.',
  keptUntil:
    'Bis {date}. Fragen Sie vorher, wenn Sie sie mitnehmen, länger aufbewahren oder vernichten lassen möchten.',
  keptUntilVisitEnds: 'Bis der Besuch endet und Sie es der Werkstatt sagen.',
  keptDays:
    '{days} Tage nach dem Besuch, wie vereinbart. Fragen Sie vorher, wenn Sie sie mitnehmen oder vernichten lassen möchten.',
  keptNot: 'Nicht über den Besuch hinaus, wie vereinbart.',
  takenAlong: 'Mitgenommen',
  takenAlongFile:
    'Eine Datei, die sich mit ihrem Passwort auch ohne das Programm der Werkstatt öffnet.',
  takenAlongStick:
    'Ein Stick: Öffnen Sie darauf die Seite „open-this-page.html“ in einem beliebigen Browser und geben Sie das Passwort ein.',
  destroyed: 'Vernichtet',
  destroyedText: 'Am {date} vernichtet. Die Bescheinigung hat die Nummer {number}.',
  destroying:
    'Sie wird vernichtet: Die Werkstatt gibt eine Bescheinigung, wenn nichts mehr übrig ist.',

  lost: 'Was sich nicht zurückholen lässt',
  lostDamaged: 'Auf dem Laufwerk beschädigt',
  lostDamagedText: 'Ein Teil der Kopie lässt sich nicht mehr lesen.',
  lostFailed: 'Nicht lesbar',
  lostFailedText: '{items} Einträge ließen sich beim Kopieren nicht vom Gerät lesen.',

  inside: 'Was darin ist',

  outside: 'Was nicht darin ist, und wie es wiederkommt',

  atHome: 'Zu Hause, in dieser Reihenfolge',
  atHomeWifi: 'Verbinden Sie das Gerät mit Ihrem WLAN und lassen Sie es am Ladegerät.',
  atHomeAccount:
    'Melden Sie sich bei Ihrem Konto an. Die Werkstatt fragt nie nach dessen Passwort.',
  atHomeApplications:
    'Warten Sie, bis Ihre Anwendungen wieder geladen sind: Was darin war, ist schon da. Öffnen Sie jede einmal; Chats fragen nach Ihrer Nummer.',
  atHomeCards:
    'Fügen Sie Ihre Zahlkarten neu hinzu und richten Sie Fingerabdruck oder Gesicht neu ein.',
  atHomeLook:
    'Sehen Sie in den nächsten Tagen Fotos, Kontakte und Nachrichten durch und sagen Sie uns sofort, wenn etwas fehlt.',

  foot: 'Geben Sie der Werkstatt nie das Passwort Ihres Online-Kontos. Sie fragt nicht danach.',

  contacts: 'Kontakte',
  calendar: 'Kalender',
  tasks: 'Aufgaben',
  messages: 'Nachrichten',
  calls: 'Anrufliste',
  notes: 'Notizen',
  photographs: 'Fotos',
  videos: 'Videos',
  music: 'Musik',
  'voice-notes': 'Sprachnotizen',
  documents: 'Dokumente',
  health: 'Gesundheit',
  'saved-passwords': 'Gespeicherte Passwörter',
  settings: 'Einstellungen und Startbildschirm',
  'web-history': 'Verlauf und Lesezeichen',
  alarms: 'Wecker',
  applications: 'Daten von Anwendungen',

  notChosen: 'Nicht gewählt: Es ist nur auf dem Gerät, von dem es kam.',
  partly: 'Nur ein Teil davon ist darin.',
  withdrawn:
    'Was darin war, ist enthalten; die Anwendung selbst gibt es im Laden nicht mehr, sie kommt nicht von selbst wieder.',
  'payment-cards': 'Zahlkarten',
  'payment-cards-text': 'Sie hängen am Chip eines Geräts. Fügen Sie jede mit Ihrer Bank neu hinzu.',
  enrolment: 'Fingerabdruck und Gesicht',
  'enrolment-text': 'Sie verlassen ein Gerät nie. Richten Sie sie neu ein.',
  'server-mail': 'Mail, die auf ihrem Server liegt',
  'server-mail-text': 'Sie wird neu geholt, sobald Sie sich bei Ihrer Mail anmelden.',
  'offline-maps': 'Karten für unterwegs',
  'offline-maps-text': 'Laden Sie sie über WLAN neu.',
  'store-content': 'Anwendungen selbst, und Gekauftes',
  'store-content-text': 'Sie laden sich über WLAN von selbst neu; was darin war, ist enthalten.',
  synced: 'Von einem anderen Computer Abgeglichenes',
  'synced-text': 'Gleichen Sie mit jenem Computer neu ab.',
  'online-only': 'Was nur in Ihrem Online-Konto liegt',
  'online-only-text': 'Es kommt wieder, wenn Sie sich anmelden, falls Ihr Konto es noch hat.',
  networks: 'WLAN-Netze und ihre Schlüssel',
  'networks-text': 'Geben Sie jeden Schlüssel neu ein.',
  'not-recovered': 'Was nicht gerettet werden konnte',
  'not-recovered-text': 'Fragen Sie, wer es gerettet hat, was fehlt.',
  'not-mounted': 'Was das Gerät nicht auf seinem Speicher hat',
  'not-mounted-text': 'Es ist nur auf dem Gerät selbst.',
};
