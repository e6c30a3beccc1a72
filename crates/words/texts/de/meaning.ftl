# The depths of a run
depth-triage = Schnelltest
depth-survey = Volltest
depth-overnight = Nachttest
depth-triage-is = ein Durchgang der Tests, die in Minuten am meisten finden: findet, was deutlich defekt ist
depth-survey-is = alle Tests, so viele Durchgänge, wie in eine Stunde passen
depth-overnight-is = alle Tests mit langen Pausen, so viele Durchgänge, wie in acht Stunden passen: findet, was sich nur manchmal zeigt

# The end of a run that is planned
end-passes =
    { $n ->
        [one] { $n } Durchgang
       *[other] { $n } Durchgänge
    }
end-soak = bis die Temperatur gleich bleibt
end-for = { $time } lang
end-never = bis zum Anhalten
end-at-most = , höchstens{" "}

# How sure a slot is
certainty-certain = sicher
certainty-told = laut Registern
certainty-assumed = angenommen
certainty-one-of = eines von diesen
certainty-unknown = unbekannt

# What re-reading an error showed
reread-recurring = kommt nach Neuschreiben wieder
reread-stored = bleibt bis zum Neuschreiben
reread-transient = beim Nachlesen weg
reread-unsteady = wechselt von Lesen zu Lesen
reread-not-looked = nicht nachgelesen

# What is measured
measured-read = Lesen
measured-write = Schreiben
measured-stream = Schreiben am Cache vorbei
measured-copy = Kopieren
measured-latency = Latenz

# Fault models
model-saf = eine Zelle hält immer denselben Wert
model-tf = eine Zelle kann in einer Richtung nicht wechseln
model-wdf = das Schreiben des Werts, den die Zelle schon hält, kippt sie
model-rdf = ein Lesen kippt die Zelle und liefert den gekippten Wert
model-drdf = ein Lesen kippt die Zelle und liefert noch den richtigen Wert
model-irf = ein Lesen liefert den falschen Wert, die Zelle stimmt
model-sof = eine Zelle ist nicht erreichbar, Lesen wiederholt das letzte
model-af = Adressen erreichen keine, eine andere oder mehrere Zellen
model-cfst = der Zustand einer Zelle zwingt eine andere
model-cfin = ein Wechsel einer Zelle kippt eine andere
model-cfid = ein Wechsel einer Zelle zwingt eine andere
model-cfds = jeder Zugriff auf eine Zelle kippt eine andere
model-cftr = der Zustand einer Zelle hindert eine andere am Wechsel
model-cfwd = der Zustand einer Zelle macht, dass ein Schreiben eine andere stört
model-cfrd = der Zustand einer Zelle macht, dass ein Lesen eine andere zerstört
model-cfdrd = dasselbe, einmal verborgen
model-cfir = der Zustand einer Zelle macht, dass eine andere falsch gelesen wird
model-lcf = zwei Kopplungen, die einander verbergen können

# What the memory sees of a test
sees-address-lines = Einige tausend Wörter, jedes am Cache vorbei geschrieben und gelesen.
sees-copies = Jedes Wort am Cache vorbei geschrieben, beim Kopieren gelesen und an beiden Stellen noch einmal gelesen.
sees-disturbance = Einige Zeilen immer wieder am Cache vorbei geöffnet; dann alle Wörter einmal gelesen.
sees-every = Jedes Lesen und Schreiben.
sees-fills = Gefüllt wird am Cache vorbei.
sees-behind = Was hinter einem Lesen geschrieben wird, kommt { $distance } hinter dem Durchlauf in den Speicher.
sees-streamed = Was hinter einem Lesen geschrieben wird, geht ebenfalls am Cache vorbei.
sees-several = Elemente mit mehreren Operationen gehen über je { $block }, Operation für Operation, jede vor der nächsten in den Speicher zurückgeschrieben.
sees-order = Zellen, die { $from } oder mehr auseinander liegen, sehen die Reihenfolge des March; zwischen näheren können wartende Schreibzugriffe im Speichercontroller sie umkehren.
own-purpose = Ein eigener Test.
own-limits = Was er findet, sagt seine Einstufung.

# How a run ended
ended-plan = alle Durchgänge beendet
ended-time = die Zeit war um
ended-error-limit = an der Fehlergrenze angehalten
ended-hand = von Hand angehalten
ended-broke-off = abgerissen durch Stromausfall, Stillstand oder Neustart

# How far it is
progress-first = erster Durchgang nicht beendet
progress-passes =
    { $n ->
        [one] { $n } Durchgang
       *[other] { $n } Durchgänge
    }
progress-of = { $done } von { $planned } Durchgängen
progress-time = { $done } von { $planned }

# The result in a line
told-void = Selbstprüfung fehlgeschlagen: Ergebnis ungültig
told-errors =
    { $n ->
        [one] { $n } Speicherfehler
       *[other] { $n } Speicherfehler
    }
told-uncorrectable =
    { $n ->
        [one] { $n } nicht korrigierbarer Hardwarefehler
       *[other] { $n } nicht korrigierbare Hardwarefehler
    }
told-miscalculated = Falsch gerechnet: { $n ->
        [one] { $n } Zahl
       *[other] { $n } Zahlen
    }
told-corrected = Nur korrigierte Fehler: { $n }
told-clean = Fehlerfrei
told-so-far = Bisher fehlerfrei: { $progress }
told-no-full-pass = Nichts gefunden, aber kein voller Durchgang
told-not-whole = Aufzeichnung beschädigt: im Rest wurde nichts gefunden
told-nothing-tested = Nichts gefunden, aber kein Speicher blieb im Test
headline-in = {" "}in { $place }
headline-places = {" "}an { $n } Stellen
headline-on = {" "}auf { $tested } von { $whole }
headline-on-unknown = {" "}auf { $tested }, eingebauter Speicher unbekannt
headline-ended = , { $how }
headline-unproved = , ohne Selbstprüfung
headline-damaged = , Aufzeichnung beschädigt
headline-again = Wieder gezeigt:{" "}
headline-not-again = Nicht wieder gezeigt:{" "}

# The result in sentences
result-void = Die Selbstprüfung ist fehlgeschlagen: Ein selbst gemachter Fehler blieb unbemerkt. Das Ergebnis ist ungültig: erneut laufen lassen, und von einem anderen Boot-Stick, wenn es wieder geschieht.
result-none-so-far = Bisher keine Fehler.
result-newer = Ein neueres Programm schrieb diese Aufzeichnung: nicht alles darin wird verstanden.
result-may-be-more = Es können mehr Fehler gewesen sein, als hier gezählt sind.
result-may-have-held = In den verlorenen Aufzeichnungen können Fehler gestanden haben: den Test wiederholen.
result-even-one = Schon ein Speicherfehler bedeutet einen Defekt.
result-miscounted = Was gezählt wurde, stimmte nicht mit sich überein, und die größere Zahl gilt: auch der Speicher, in dem der Tester selbst arbeitet, kann defekt sein.
result-computed =
    { $n ->
        [one] { $n } Zahl war
       *[other] { $n } Zahlen waren
    } unter Rechenlast falsch.
result-reported = Die Hardware meldete { $n ->
        [one] { $n } nicht korrigierbaren Speicherfehler
       *[other] { $n } nicht korrigierbare Speicherfehler
    }.
result-corrected = Die Hardware korrigierte { $n ->
        [one] { $n } Speicherfehler
       *[other] { $n } Speicherfehler
    }.
result-read-none = {" "}Der Test selbst las keinen Fehler.
result-broke-first = Die Aufzeichnung reißt vor dem ersten Test ab: Stromausfall, Stillstand oder Neustart.
result-broke-in = Die Aufzeichnung reißt in Durchgang { $pass } bei { $percent } % davon ab, in { $test }: Stromausfall, Stillstand oder Neustart.
result-in-time = Keine Fehler in { $time } Laufzeit.
result-in-passes = Keine Fehler in { $n ->
        [one] { $n } vollem Durchgang
       *[other] { $n } vollen Durchgängen
    } ({ $time }).
result-within = { $within } von { $ran } Laufzeit
result-first-at = { $time }, bei { $celsius } °C
result-repeats = Der Lauf { $run } zeigte ihn nach { $first } in denselben Tests.
result-too-little = Das ist zu wenig, um etwas auszuschließen.
result-ruled-out = Mit 95 % Sicherheit ausgeschlossen: zufällige Fehler häufiger als einmal in { $interval } und Fehler, die sich in mehr als { $percent } % der Durchgänge zeigen. Seltenere Fehler sind nicht ausgeschlossen.
result-patterns-and-load = Prüfmuster und Rechenlast
result-patterns = Prüfmuster
result-asleep = , schlafend für { $time }
result-at-one = {" "}bei { $high } °C
result-at-range = {" "}bei { $low } bis { $high } °C
result-not-computing = Rechenlast
result-not-warm = warmer Speicher: kein Fühler meldete eine Temperatur
result-not-on-die = einzelne Bits, die DDR5 im Chip korrigiert
result-shortest = {" "}Kürzester Test über allen Speicher: { $test }, { $time }.
result-covered = Abgedeckt: { $load }{ $warm }{ $asleep }, { $coverage }.{ $least }
result-not-covered = { $covered } Nicht abgedeckt: { $missing }.
result-of-it-paused = , davon { $time } angehalten
result-of-it-stalled = , davon { $time } von außen angehalten: nichts lief
result-only-warm = Fehler kamen erst ab { $celsius } °C: Der Fehler zeigt sich, wenn es warm ist.
result-warmth-none = Von { $from } bis { $to } °C änderte Wärme nichts an den Fehlern.

# How much was tested
coverage-of = { $tested } von { $whole } getestet ({ $percent })
coverage-unknown = { $tested } getestet, eingebauter Speicher unbekannt
coverage-less = weniger als 0,1 %
left-out = { $bytes } { $reason }
left-unfinished = nicht fertig getestet
left-moved = während des Tests verschoben
left-taken-out = nach einem Hardwarefehler herausgenommen
left-chosen = nach Wahl ausgelassen
left-firmware = von der Firmware belegt
left-system = vom laufenden System belegt

# The result in a word
outcome-clean-so-far = bisher fehlerfrei
outcome-clean = fehlerfrei
outcome-errors-found = Fehler gefunden
outcome-cut-short = verkürzt
outcome-interrupted = unterbrochen
outcome-not-whole = Aufzeichnung beschädigt
outcome-checking-failed = Selbstprüfung fehlgeschlagen

# Damage of a record
damage-torn = der letzte Eintrag wurde abgerissen und fehlt
damage-damaged =
    { $n ->
        [one] { $n } Zeile
       *[other] { $n } Zeilen
    } beschädigt und ausgelassen
damage-missing =
    { $n ->
        [one] { $n } Eintrag fehlt
       *[other] { $n } Einträge fehlen
    }
damage-unknown =
    { $n ->
        [one] { $n } Eintrag
       *[other] { $n } Einträge
    } eines neueren Programms nicht verstanden
damage-displaced =
    { $n ->
        [one] { $n } Eintrag
       *[other] { $n } Einträge
    } nicht dort, wo geschrieben wurde
damage-unreadable =
    { $n ->
        [one] { $n } Datei
       *[other] { $n } Dateien
    } davon nicht lesbar
damage-whole = Diese Aufzeichnung ist nicht vollständig{ $place }: { $parts }.
damage-from = {" "}ab { $from }
damage-between = {" "}zwischen { $from } und { $to }
journal-newer = Ein neueres Programm schrieb dieses Journal (Format { $format }): gezeigt wird, was verstanden wird.

# Why a run has no end
broke-power = der Strom fiel aus
broke-hang = er hing: nichts bewegte sich mehr
broke-restart = er startete unerwartet neu
broke-memory = die Hardware meldete einen Speicherfehler
broke-fault = das Programm selbst endete durch einen Fehler darin
broke-purpose = er wurde absichtlich ausgeschaltet
broke-unknown = unbekannt

# Entries of a system's logs
log-uncorrected = Speicherfehler
log-check-found = Speicherprüfung fand Fehler
log-page-retired = Seite ausgeschlossen
log-corrected = korrigierter Fehler
log-machine-check = Machine Check
log-stop-screen = Fehlerbildschirm
log-check-clean = Speicherprüfung fand nichts


# Counts of things
cores-one = ein Kern
cores-some = { $cores } Kerne

# Joining
join-and = {" "}und{" "}
join-and-more = {" "}und { $more } weitere
join-or = {" "}oder{" "}

# Who holds memory
whole-installed = eingebaut
whole-given = dem Betriebssystem gegeben
whole-seen = vom System gesehen
part-testable = jetzt testbar
part-kernel = der Kernel: sein Code und seine Tabellen
part-system = das laufende System und andere Programme
part-reserve = zurückbehalten, damit das System am Leben bleibt
part-lock-limit = mehr, als dieser Benutzer belegen darf
part-withheld = dem Kernel vorenthalten, der es nicht herausgibt ({ $why })
part-firmware = Firmware und Geräte
part-unaccounted = nicht zuzuordnen
limit-lock-limit = Ohne root darf nur wenig Speicher belegt werden, und seine Adressen sind unbekannt. Für allen Speicher als root ausführen.
limit-system = Den Rest brauchen das laufende System und andere Programme.

# Who logged an error
source-kernel-log = das Kernelprotokoll
source-crash = Spuren eines Absturzes
source-boot-record = der Fehlersatz der Firmware

# Findings: what, and what to do
errors-corrected =
    { $n ->
        [one] { $n } korrigierter Speicherfehler
       *[other] { $n } korrigierte Speicherfehler
    }
errors-uncorrected =
    { $n ->
        [one] { $n } nicht korrigierter Speicherfehler
       *[other] { $n } nicht korrigierte Speicherfehler
    }
errors-both = { $corrected } korrigierte und { $uncorrected } nicht korrigierte Speicherfehler
found-counted = Die Hardware zählte seit dem Start { $errors }, in { $places }
do-counted = Anhaltende korrigierte Fehler gehören zu einem Modul, das versagt. Es testen und ersetzen, bevor sie nicht mehr korrigierbar sind.
found-logged = Fehler sind vermerkt: { $errors }{ $at }. Quelle: { $sources }
found-logged-at = , in { $places }
found-logged-nowhere = , in keinem bekannten Steckplatz
do-logged = Sie geschahen im Betrieb, nicht in einem Test: ernst nehmen. Mit dem Modul beginnen, das sie nennen.
found-missing = { $installed } sind eingebaut, aber die Firmware übergibt nur { $given }: { $missing } fehlen
do-missing = Das fehlende Modul sitzt schlecht, ist defekt oder mehr, als die Hauptplatine unterstützt. Neu einsetzen, dann allein testen.
do-missing-not-mapped = Auch die Tabellen der Firmware lassen diesen Speicher aus: Sie benutzt eines der Module nicht. Neu einsetzen, dann einzeln testen.
do-missing-reserved = Die Speicherkarte reserviert ihn unterhalb von 4 GiB, wahrscheinlich für die Grafik. Wie viel sie nimmt, zeigen die Einstellungen der Firmware.
do-missing-nothing-high = Oberhalb von 4 GiB ist nichts zugeordnet. In den Einstellungen der Firmware nach der Umlagerung von Speicher (memory remapping) sehen oder die Firmware erneuern.
found-less = Mit denselben Modulen übergab die Firmware zuletzt { $was }, jetzt { $is }
do-less = Ein Teil des Speichers ist seitdem ausgefallen. Module neu einsetzen, dann einzeln testen.
found-changed = Nicht wie beim letzten Mal: { $changes }
change-emptied = { $slot } hatte { $was } und ist leer
change-filled = { $slot } war leer und hat { $is }
change-other = { $slot } hatte { $was } und hat { $is }
do-changed = Wenn sie umgesetzt wurden, ist alles gut. Wenn nicht, fehlt ein Modul: neu einsetzen.
found-damaged-spd = Die Angaben des Moduls passen nicht zu ihrer Prüfsumme: { $slots }
do-damaged-spd = Die Firmware stellt es vielleicht falsch ein. Kontakte reinigen und erneut lesen; bleibt es so, dem Modul nicht trauen.
found-crowded = Mehrere Module teilen sich Kanal { $channel }, während ein anderer leer ist
do-crowded = Eines davon nach { $free } umsetzen: Zwei Kanäle leisten fast das Doppelte.
do-crowded-of-many = Eines davon nach { $free } stecken: Jeder Kanal mit einem Modul trägt zum Durchsatz bei.
found-unbalanced = Die Kanäle haben nicht gleich viel Speicher: { $channels }
channels-hold = { $size } an { $channels }
do-unbalanced = Das Modul aus { $from } nach { $to } stecken: Die Kanäle haben dann eher gleich viel, und mehr des Speichers läuft mit voller Geschwindigkeit.
do-unbalanced-by-size = Was ein Kanal mehr hat als die anderen, ist langsamer. Gleich große Module in jedem Kanal würden das beheben; für einen Test ist es nicht nötig.
found-idle = { $used } von { $of } Speicherkanälen sind belegt
do-idle = Mehr Module gleicher Art, eines je Kanal, machten den Speicher schneller. Für einen Test ist es gleich.
found-mixed = Module sind gemischt, verschieden in: { $traits }
trait-maker = Hersteller
trait-size = Größe
trait-ranks = Ranks
trait-speed = Geschwindigkeit
do-mixed = Jedes kann gut sein und die Mischung nicht. Kommen Fehler, die Sätze getrennt testen, bevor eines beschuldigt wird.
found-below = Läuft unter der Nennrate: { $slots }
below-at = { $slots } mit { $speed } von { $rated } MT/s
do-below = Standardeinstellungen (mit der Batterie kann ein Profil verloren gehen), ein langsameres Modul daneben oder die Grenze des Prozessors. So lassen, solange Fehler gesucht werden; danach das Profil einschalten und erneut testen.
found-profile-on = Läuft über der Grundrate, also ist ein Profil eingeschaltet: { $slots }
above-at = { $slots } mit { $speed }, gemacht für { $base } MT/s
do-profile-on = Fehler können allein von den Einstellungen kommen. Zuerst so testen; kommen Fehler, das Profil ausschalten und erneut testen, bevor ein Teil beschuldigt wird.
found-off-profile = Läuft mit einer Rate, die weder die Grundrate noch die eines Profils ist: { $slots }
do-off-profile = Die Rate wurde von Hand eingestellt. Ein gespeichertes Profil oder die Grundrate einstellen, dann testen: Fehler können allein von den Einstellungen kommen.
found-old-firmware = Die Firmware der Hauptplatine ist { $years } Jahre alt ({ $date })
do-old-firmware = Neuere Firmware stellt Speicher oft besser ein. Nach einer Aktualisierung sehen, bevor ein Modul unverträglich heißt.
found-encrypted = Der Prozessor verschlüsselt den Speicher
do-encrypted = Ein falsches Bit verdirbt einen ganzen Block, Datenleitungen sind also unbekannt. Um sie zu sehen, die Verschlüsselung in der Firmware ausschalten.
found-disputed = Quellen widersprechen sich: { $facts }
disputed-fact = { $name } von { $slot }: { $values }
do-disputed = Mit der Aufschrift vergleichen. Ein Modul mit anderen Angaben als seiner Aufschrift ist umetikettiert oder beschädigt.
found-no-serials-at-all = Die Firmware gibt keine Seriennummern an
found-no-serials = Die Firmware nennt keine Seriennummer für { $slots }
do-no-serials = Diese Module mit einem Farbpunkt markieren. Nach einem Tausch unterscheidet sie sonst nichts.
found-same-serials = { $slots } nennen dieselbe Seriennummer
do-same-serials = Hersteller oder Firmware gaben beiden dieselbe Nummer, deshalb kann dieses Programm sie nicht unterscheiden. Von Hand markieren und einzeln testen.
found-no-spd = Die Angaben der Module (SPD) waren nicht lesbar
do-no-spd = Dies meldet die Firmware. Ob ein Profil eingeschaltet ist, ist unbekannt: in den Einstellungen der Firmware nachsehen.
found-guest = Dies ist eine virtuelle Maschine
do-guest = Nur ihr Anteil des Speichers wird getestet, und Adressen sind ihre eigenen. Um den Rechner zu testen, ihn ohne sie starten.
found-no-tables = Die Tabellen der Firmware nennen nicht, was eingebaut ist
do-no-tables = Fehler lassen sich hier keinem Steckplatz zuordnen. Module einzeln testen und aufschreiben, welches.
found-hidden = Die Speicherkarte ist für diesen Benutzer verborgen
found-map-not-saved = Die gespeicherten Angaben enthalten keine Speicherkarte
do-map-not-saved = Welcher Teil des Speichers testbar ist, ist in Adressen unbekannt. Als root auf jenem Computer noch einmal speichern, um sie zu haben.
do-hidden = Welcher Teil des Speichers testbar ist, ist in Adressen unbekannt. Als root ausführen, um sie zu sehen.

# Measured speed
speed-one-channel-both = Der Speicher schafft { $rate }, { $share } dessen, was { $channels } Kanäle leisten: Beide Module teilen sich einen Kanal
speed-one-channel-all = Der Speicher schafft { $rate }, { $share } dessen, was { $channels } Kanäle leisten: Alle Module teilen sich einen Kanal
do-one-channel = Eines davon nach { $free } umsetzen, dann erneut messen.
speed-lost-channel = Der Speicher schafft { $rate }, { $share } dessen, was { $channels } Kanäle leisten, obwohl in jedem ein Modul steckt
do-lost-channel = Ein Kanal ist vielleicht ausgefallen: ein Kontakt, der nicht schließt, oder eine Einstellung. Module neu einsetzen, dann erneut messen.
speed-profile-sold = Der Speicher schafft { $rate }, wie bei { $speed } MT/s zu erwarten; verkauft werden diese Module für { $sold }: Das Profil ist ausgeschaltet
speed-profile-stored = Der Speicher schafft { $rate }, wie bei { $speed } MT/s zu erwarten; in den Modulen ist ein Profil hinterlegt, und es ist ausgeschaltet
do-profile = Ausgeschaltet lassen, solange Fehler gesucht werden. Für mehr Tempo in der Firmware einschalten und erneut testen: nicht jeder Prozessor verträgt es.
speed-tables-wrong = Der Speicher schafft { $rate }, mehr als { $channels } mit { $speed } MT/s könnten: Die Tabellen der Firmware sind falsch
do-tables-wrong = Nicht auf ihre Angaben zu Kanälen und Raten bauen, auch nicht auf Steckplätze, die nur sie nennen.
channels-one = ein Kanal
channels-some = { $channels } Kanäle
about-half = etwa die Hälfte
percent = { $percent } %
verdict-speed = { $rate }, { $percent } % der theoretischen Spitze ({ $channels }, { $speed } MT/s)
verdict-more = { $what }: Die Tabellen nennen zu wenig.
verdict-expected = { $what }: wie erwartet.
verdict-less = { $what }: weniger als üblich.
verdict-cores = { $what }. Die Grenze sind hier die Kerne, nicht der Speicher.
not-judged-guest = In einer virtuellen Maschine: Andere teilen diesen Speicher, und die Tabellen beschreiben vielleicht einen anderen Rechner als den, der ihn trägt. Nichts wird gefolgert.
not-judged-small = Keine Arbeitsmenge war größer als die Caches: über den Speicher selbst wird nichts gesagt.
not-judged-unknown = Wie schnell er sein sollte, ist unbekannt: { $why }.
not-known-modules = keine Tabelle nennt, welche Module eingebaut sind
not-known-channels = die Firmware nennt den Kanal jedes Steckplatzes nicht
not-known-speeds = die Firmware nennt die Rate jedes Moduls nicht

# What is not known of a board
unknown-spd = Das SPD bei { $place } ist nicht brauchbar: { $why }.
unknown-spd-unmatched = Das SPD bei { $place } ({ $module }) passt zu keinem der Module in den Tabellen: es ist getrennt aufgeführt.
unknown-tables = Es gibt keine SMBIOS-Tabellen, oder sie dürfen nicht gelesen werden (nur von root): Steckplätze haben hier keine Namen.
unknown-map = Die Speicherkarte ist nicht lesbar: nur root darf Adressen sehen.
unknown-encryption = Ob der Prozessor den Speicher verschlüsselt, ist hier unbekannt.
controller-unknown = Der Speichercontroller { $id } ist nicht bekannt: Seine Register werden nicht gelesen, und Fehler werden nach ihnen keinem Steckplatz zugeordnet.
controller-missing = Das Register { $place } des Speichercontrollers wurde nicht gelesen: Fehler werden nach Registern keinem Steckplatz zugeordnet.
controller-contradiction = Die Register des Speichercontrollers widersprechen einander oder den Tabellen ({ $what }): Fehler werden nach ihnen keinem Steckplatz zugeordnet.
controller-undocumented = Der Speichercontroller ist so eingestellt, wie es kein Dokument sicher beschreibt ({ $what }): Fehler werden nach seinen Registern keinem Steckplatz zugeordnet.
contradiction-switched-off = seine Register sind abgeschaltet
contradiction-no-memory = kein Kanal hat Speicher
contradiction-sizes = die Größen der Module
contradiction-channels = die Größen der Kanäle
contradiction-window = das Fenster für Speicher unter Geräten
contradiction-not-one-to-one = eine Adresse hätte zwei Plätze oder keinen
contradiction-reserved = ein reservierter Wert
undocumented-channel-hash = die Funktion, die den Kanal wählt
undocumented-channel-order = die Reihenfolge der Kanäle
undocumented-nodes = mehrere Prozessoren oder Chips teilen sich den Speicher
undocumented-partly-interleaved = verschieden große Kanäle, die teilweise verschränkt sind
undocumented-exchanged = ein vertauschter Adressbereich
undocumented-ganged = zwei Kanäle, die als einer arbeiten
undocumented-second-select = zweite Adressen eines Chip-Selects
unknown-timings = Zeiten und Befehlsrate in Kraft stehen in Registern des Speichercontrollers, die nicht gelesen werden; gezeigt werden die Zeiten, die ein Modul für seine Grundrate nennt.

# What to order
order-one = ein Modul: { $what }.
order-several = { $n } Module: { $what }.
order-labels = Dieselbe Art wie die Module, die bleiben: die Etiketten vergleichen.
order-ranks =
    { $n ->
        [one] { $n } Rank
       *[other] { $n } Ranks
    }
order-timings = Zeiten { $timings } oder niedriger
order-ecc = mit ECC
order-no-ecc = ohne ECC
order-part = Am besten dieselbe Teilenummer: { $part }.
order-only = Es ist das einzige Modul: Größe und Rate sind frei, soweit die Hauptplatine sie annimmt.
order-others = Die Module, die bleiben, sind von anderer Art: ein abgestimmter Satz für alle Steckplätze ist sicherer als noch eine Art.
order-twins = Mit Modulen derselben Teilenummer kombinieren. Gibt es sie nicht mehr, einen abgestimmten Satz für den Kanal kaufen.
order-slowest = Alle laufen so schnell wie das langsamste: { $speed } genügt.
order-new = Lieber neu als gebraucht. Registrierte nicht mit ungepufferten mischen, ECC nicht mit Modulen ohne, in einem Kanal keine verschiedenen Ranks.
order-list = In der Speicherliste (QVL) der { $board } nachsehen.

# What failed
shape-cell = eine einzelne Zelle
shape-column = eine Spalte einer Bank
shape-row = eine Zeile einer Bank
shape-bank = eine Bank
shape-lane = eine Datenleitung
shape-lane-pair = zwei Datenleitungen
shape-byte-lane = eine Byte-Gruppe
shape-address-line = eine Adressleitung
shape-half-module = ein Rank
shape-whole-module = das ganze Modul
shape-channel = alle Steckplätze eines Kanals
shape-decoder-doubles = Wörter, die auf zwei Adressen antworten
shape-scattered = einzelne Bits ohne Muster
shape-machine = alle Module gleich
cause-module = das Modul
cause-contact = seine Kontakte im Steckplatz
cause-slot = der Steckplatz
cause-settings = die Einstellungen
cause-controller = der Speichercontroller
why-inside = Zellen, Zeilen, Spalten und Bänke gibt es nur in einem Chip: nichts außerhalb des Moduls versagt so.
why-decoder = Ein Adressdekoder in einem Chip ist defekt, oder eine Adressleitung erreicht ihn schwach.
why-lane = Eine Datenleitung ist ein Kontakt und eine Leiterbahn: Kontakte reinigen und neu einsetzen, bevor ein Teil beschuldigt wird.
why-byte-lane = Eine Byte-Gruppe ist ein Chip, oder zwei, mit eigenem Takt: ein toter Chip oder seine Kontakte.
why-address-line = Eine Adressleitung geht zu jedem Chip: ein Kontakt, eine Leiterbahn oder das Register auf dem Modul.
why-rank = Ein Rank ist bei vielen Modulen eine Seite und hat eine eigene Auswahlleitung.
why-whole = Alles darin versagt: es sitzt vielleicht nicht oder ist nicht eingestellt.
why-channel = Mehrere Module eines Kanals versagen selten zusammen: gemeinsam haben sie den Kanal, seine Einstellungen und seine Seite der Steuerung.
why-scattered = Einzelne Bits ohne Muster kommen von zu wenig Reserve: zu schnelle Einstellungen, Wärme, schwache Versorgung.
why-machine = Module versagen selten gleich und zugleich: gemeinsam haben sie die Steuerung, ihre Versorgung und die Einstellungen.

# Where it failed
ground-assumed-map = nach einer Adresskarte, die noch kein Lauf bestätigt hat
ground-map = die Adresskarte dieser Bestückung ist bekannt
ground-slots-unknown = die Firmware nennt nicht, welche Steckplätze belegt sind
ground-one-module = nur ein Modul ist eingebaut
ground-learned-map = nach einer Karte der Steckplätze, die gelernt wurde, als diese Hauptplatine schon einmal so bestückt war
ground-registers = die Register des Speichercontrollers sagen, welche Steckplätze eine Adresse haben; keine echte Hauptplatine hat das bisher bestätigt
ground-firmware-ranges = für diese Bestückung ist keine Adresskarte bekannt; die Firmware nennt, welche Steckplätze eine Adresse haben
ground-no-map = für diese Bestückung ist keine Adresskarte bekannt, also ist jeder belegte Steckplatz möglich
ground-one-half = eine Adresskarte ist nicht bekannt, aber alle Fehler liegen in derselben Hälfte der Adressen: an einem der beiden Kanäle, wie Lesezeiten zeigten
surer-move-any = Ein beliebiges Modul in einen anderen Steckplatz setzen und einmal starten: Die Register zeigen dann, welcher Steckplatz welcher ist, auch ohne Fehler.
surer-run-alone = Ein Lauf mit diesem Modul allein in seinem Steckplatz macht es gewiss.
surer-one-at-a-time = Läufe mit je einem Modul machen es gewiss.
surer-declare = Steckplätze und Module angeben (e in Board), dann einzeln testen.
surer-exchange = Die Module der beiden Kanäle vertauschen und noch einmal laufen lassen: Wechseln die Fehler in die andere Hälfte, ist es das Modul.
locate-refuted = Die Adresskarte dieses Laufs ist falsch: Läufe mit einem einzelnen Modul oder Fehlerzähler widersprechen ihr. Sie wird nicht benutzt.
locate-no-addresses = Adressen sind unbekannt: jedes der eingebauten Module kann die Fehler haben.
locate-without-map = Keine Adresskarte: Zeilen, Spalten und Bänke sind unbekannt. Eine davon, auf denselben Datenleitungen, sähe gleich aus.
locate-flood = Zu viele Fehler, um jeden zu untersuchen: Zeilen, Spalten und Bänke unbekannt, nur Datenleitungen und Steckplätze.
locate-encrypted = Der Speicher ist verschlüsselt: Datenleitungen sind unbekannt.
locate-guest = Adressen sind die einer virtuellen Maschine.
locate-ranges-trusted = Der Firmware einer virtuellen Maschine wurde für einen Test geglaubt, welche Adressen zu welchem Steckplatz gehören: Bei einer echten entscheidet der Speichercontroller.
locate-on-die = DDR5 korrigiert einzelne Zellen im Chip. Ein Wort sind zwei Takte von 32 Datenleitungen: Bits 32 bis 63 benutzen dieselben Leitungen noch einmal.
locate-none-known = Keine fehlerhaften Wörter sind bekannt.
locate-beyond = Die fehlerhaften Wörter liegen außerhalb der Karte.
locate-in-one-of = In einem von { $slots }
locate-in-unknown = In einem unbekannten Steckplatz
locate-dq-one = , DQ { $one }
locate-dq-two = , DQ { $one } und { $two }
locate-dq-range = , DQ { $first } bis { $last }
locate-words-failed =
    { $n ->
        [one] { $n } Wort
       *[other] { $n } Wörter
    } fehlerhaft
locate-words-sample = Gelesen aus { $n ->
        [one] { $n } Wort
       *[other] { $n } Wörtern
    } von denen, die versagten ({ $all } falsche Lesungen insgesamt)
locate-strays = ; { $n ->
        [one] { $n } Wort
       *[other] { $n } Wörter
    } dadurch nicht erklärt
locate-statement = { $place }: { $shape }{ $lanes }. { $words }{ $strays }.
locate-only-fit = kein anderes Fehlermuster passt
locate-fit = etwa { $odds }-mal so wahrscheinlich wie alle anderen Fehlermuster zusammen
word-one-for-zero = liest 1 statt 0
word-zero-for-one = liest 0 statt 1
word-both = liest 1 statt 0 und 0 statt 1
word-repeats = { $reads }, kommt nach Neuschreiben wieder
word-gone = { $reads }, beim Nachlesen weg
word-gone-some = { $reads }, beim Nachlesen { $right } von { $all }-mal weg
group-row = Rank { $rank } Bank { $bank } Zeile { $row }
group-column = Rank { $rank } Bank { $bank } Spalte { $column }
group-bank = Rank { $rank } Bank { $bank }
group-page = Seite { $address }
group-rest = einzelne Wörter
again-same-one = Dasselbe Wort
again-same-some = Dieselben { $words } Wörter
again-stayed =
    { $same } von { $module } versagte in { $runs ->
        [one] { $runs } Lauf
       *[other] { $runs } Läufen
    }, immer in Steckplatz { $slot }: dazwischen wurde nicht umgesetzt.
again-moved = { $same } von { $module } versagte wieder, nachdem es umgesetzt war ({ $slots }): Der Fehler geht mit dem Modul.
again-then = , dann{" "}
workaround-own = {" "}Die Adressen sind die dieser virtuellen Maschine und bedeuten außerhalb nichts.
workaround-warning = Nur ein Notbehelf: das Modul zu ersetzen ist besser. Ein Fehler kann wachsen, und nach jeder Änderung von Modulen, Einstellungen oder Firmware sind die Adressen andere.{ $own } In einer GRUB-Konfiguration \$ statt $ schreiben.
refusal-nothing = nichts versagte, es gibt nichts auszuschließen
refusal-no-addresses = die Adressen sind unbekannt: als root ausführen, um sie zu sehen
refusal-shape = das sieht nach { $shape } aus: als Nächstes versagten andere Adressen, Bereiche auszuschließen hilft also nicht. Modul ersetzen oder neu einsetzen
refusal-too-much = { $bytes } Speicher in { $ranges } Bereichen gingen verloren: zu viel für die Liste jedes Systems. Modul ersetzen

# How slots share addresses
layout-channels = Kanäle: { $how }
layout-channel = Kanal { $channel }: { $how }
layout-alone = { $label } allein
layout-border = { $first }, dann { $second }, die Grenze zwischen { $from } und { $to }
layout-behind = hintereinander: { $borders }
layout-parities = { $labels } nach den Paritäten von { $masks }
layout-turns = { $labels } abwechselnd je { $granule } Byte
layout-open = offen: { $what }
open-no-word = von { $labels } ist noch kein fehlerhaftes Wort bekannt: das fehlerhafte Modul dort, bei gleicher Bestückung, entschiede es{ $so_far }
open-so-far = ; von den anderen: { $open }
open-no-parity = keine Parität von Adressbits und kein Abwechseln passt zu diesen Wörtern: eines davon hat einen anderen Steckplatz
open-dimensions = { $more } Dimensionen sind offen; Fehler eines Moduls an Adressen, die sich in den Bits { $bits } unterscheiden, entschieden es
open-unseen-bits = die noch nicht zusammen gesehen wurden

# Odds
band-very-likely = sehr wahrscheinlich
band-likely = wahrscheinlich
band-possible = möglich
band-unlikely = unwahrscheinlich
suspect-module = Modul { $module }
suspect-unfit = Modul { $module }, gut, aber unverträglich mit dieser Hauptplatine
suspect-slot = Steckplatz { $slot }
suspect-channel = Kanal { $channel }
suspect-too-many = zu viele Module für diese Einstellungen
suspect-position = die benutzten Steckplätze
suspect-kits = Module verschiedener Sätze zusammen
suspect-no-part = schlechter Sitz oder ein einmaliger Fehler
suspect-combination = { $module } zusammen mit anderen
suspect-pair = { $a } und { $b } zusammen
suspect-settings = die Einstellungen
suspect-controller = Hauptplatine oder Prozessor
suspect-two = Module { $a } und { $b }
suspect-module-slot = Modul { $module } und Steckplatz { $slot }
suspect-other = etwas anderes
leading-nothing = Noch ist nichts bekannt.
leading-most = Am verdächtigsten: { $suspect } ({ $band }).
leading-rivals = {" "}Nicht ausgeschlossen: { $rivals }.
becomes-likelier = { $leader } ({ $band }); { $other } wird wahrscheinlicher
graded = { $what } ({ $band })

# Why a suspect leads: the observations that moved the odds most
because-ran = { $times ->
    [one] { $came } mit { $modules }
   *[other] { $came } mit { $modules } ({ $times } Läufe)
  }
because-clean = kein Fehler
because-errors = Fehler
because-errors-in = Fehler in { $slots }
because-dark = kein Start
because-starts = er startet
because-all = allen Modulen
because-all-in = allen Modulen in { $slots }
because-set = {" "}bei Einstellung { $settings }
because-all-but = allen Modulen außer { $modules }
because-cells-followed = { $module } umgesteckt: dieselben Zellen fielen wieder aus
because-cells-changed = { $module } umgesteckt: andere Zellen fielen aus
because-lanes-followed = { $module } umgesteckt: dieselbe Byte-Gruppe fiel wieder aus
because-lanes-changed = { $module } umgesteckt: eine andere Byte-Gruppe fiel aus
because-cells-stayed = { $slot } mit anderem Modul: dieselben Zellen fielen wieder aus
because-cells-went = { $slot } mit anderem Modul: andere Zellen fielen aus
because-lanes-stayed = { $slot } mit anderem Modul: dieselbe Byte-Gruppe fiel wieder aus
because-lanes-went = { $slot } mit anderem Modul: eine andere Byte-Gruppe fiel aus

# The next step
step-setting = , mit Einstellungen: { $settings }
step-again-untouched = Erneut testen, ohne etwas anzufassen
step-again = Erneut testen{ $setting }
step-reseat-all = Alle Module herausnehmen und wieder einsetzen
step-reseat = { $modules } herausnehmen und wieder einsetzen
step-as-first = Alles wieder wie zu Anfang{ $setting }
step-alone = { $module } allein in { $slot }{ $setting }
step-all-but = Alle außer { $modules }{ $setting }
step-placed = { $module } in { $slot }
step-several = { $placed }{ $setting }
do-take-out-of = { $module } aus { $slot }
do-take = { $modules } nehmen. Bereitlegen.
do-move = { $module } von { $before } nach { $slot } umsetzen.
do-reseat = { $module } aus { $slot } nehmen, Kontakte ansehen und wieder eindrücken.
do-put = { $module } in { $slot } einsetzen.
do-notch = Kerbe auf Steg, gerade hinunter, bis beide Riegel einrasten.
do-simulated-settings = Die Simulation setzt diese Einstellungen in Kraft: { $settings }.
do-stock = In der Firmware die Vorgaben laden: kein Speicherprofil, keine Zeiten oder Spannung von Hand.
do-other-settings = In der Firmware die früheren Einstellungen wieder in Kraft setzen: { $settings }.
do-simulated = Die Simulation setzt die Module um.
do-off-laptop = Ausschalten, Stecker ziehen, Akku heraus, Einschaltknopf fünf Sekunden halten. Blankes Metall berühren.
do-off-desktop = Ausschalten, Stecker ziehen, Einschaltknopf fünf Sekunden halten. Das blanke Gehäuse berühren.
do-off = Ausschalten, Stecker ziehen, beim Notebook den Akku heraus; Einschaltknopf fünf Sekunden halten. Blankes Metall berühren.
differs-elsewhere = { $module } steckt in { $found } statt in { $wanted }
differs-missing = { $module } fehlt in { $wanted }
differs-still = { $module } steckt noch in { $found }
settings-stock = Standard
settings-profile = Profil

# The answer of a job
answer-nothing = Nichts ist bekannt.
answer-sure = { $part } ({ $band }). { $why }
answer-alike = { $part } ({ $band }), nicht bewiesen: Andere Ursachen hätten in diesen Läufen dasselbe gezeigt. Mit einem bekannt guten Modul an seiner Stelle testen.
answer-unproved = { $part } ({ $band }), nicht bewiesen: ohne dieses Teil war kein Lauf möglich. Ein bekannt gutes Modul an seiner Stelle testen.
answer-one-of = Eines von diesen: { $all }. { $stop }
answer-budget = Die Grenze an Läufen, Handarbeit oder Stunden für einen Auftrag ist erreicht.
answer-open = Kein weiterer Lauf mit diesen Teilen würde sie trennen.
why-passes = {" "}({ $passes } Durchgänge im längsten solchen Lauf)
why-reseated = Neu eingesetzt lief die erste Bestückung fehlerfrei{ $clean }.
why-profile =
    { $n ->
        [one] { $n } Lauf
       *[other] { $n } Läufe
    } mit dem Profil versagten; mit Standardeinstellungen lief es fehlerfrei{ $clean }.
why-explains = Es erklärt die Läufe besser als jedes Modul und jeder Steckplatz.
why-with-others =
    { $n ->
        [one] { $n } Lauf
       *[other] { $n } Läufe
    } damit und mit anderen versagten; allein und ohne lief alles fehlerfrei{ $clean }.
why-unfit =
    { $n ->
        [one] { $n } Lauf
       *[other] { $n } Läufe
    } damit versagten hier; in einem anderen Rechner lief es fehlerfrei.
why-runs =
    { $n ->
        [one] { $n } Lauf
       *[other] { $n } Läufe
    }
why-starts = { $n } Läufe oder Starts
why-without = { $failed } damit versagten; ohne lief der Rest fehlerfrei{ $clean }.
why-pair = { $failed } mit beiden versagten; mit höchstens einem davon lief alles fehlerfrei{ $clean }.
why-without-both = { $failed } mit einem davon versagten; ohne beide lief der Rest fehlerfrei{ $clean }.

# What to do at the end
act-replace = Ersetzen; siehe die Bestellung unten.
act-replace-both = Beide ersetzen; siehe die Bestellung unten.
act-try-elsewhere = Vor dem Entsorgen in einem anderen PC testen. Läuft es dort fehlerfrei, ist es gut, aber unverträglich mit dieser Hauptplatine.
act-use-elsewhere = Anderswo lief es fehlerfrei: dort verwenden. Zuerst die Vorgaben der Firmware laden und sie aktualisieren: manchmal genügt das.
act-buy-listed = Ein Modul aus der Speicherliste (QVL) der Hauptplatine kaufen.
act-replace-alike = Es passt nicht zu diesem Rechner: ersetzen, am besten durch dieselbe Teilenummer wie die anderen.
act-firmware-first = Zuerst die Vorgaben der Firmware laden und sie aktualisieren: manchmal hilft das.
act-keep-one = Eines der beiden behalten, das andere in einem anderen Rechner verwenden: jedes ist allein gut.
act-buy-alike = Dieselbe Teilenummer wie das bleibende kaufen oder einen abgestimmten Satz.
act-clean-slot = Den Steckplatz ausblasen, auf verbogene oder matte Kontakte sehen und noch einmal testen.
act-leave-slot = Leer lassen, wenn ein anderer frei ist; sonst die Hauptplatine ersetzen.
act-replace-and-leave = Das Modul ersetzen und den Steckplatz leer lassen oder die Hauptplatine ersetzen.
act-profile-off = Das Profil ausgeschaltet lassen. Braucht der Besitzer das Tempo: Firmware aktualisieren, dann das Profil noch einmal über Nacht testen.
act-raise-voltage = Erst dann die Speicherspannung um eine Stufe erhöhen, bei DDR4 oder DDR5 höchstens 0,05 V. Nach jedem Fehler zurück zum Standard.
act-buy-nothing = Nichts kaufen. Vor der Übergabe über Nacht testen: ein Kontakt kann sich wieder lösen.
act-see-to-processor = Die Vorgaben der Firmware laden und sie aktualisieren; den Prozessor neu einsetzen und seinen Kühler ansehen.
act-inspect-socket = Den Prozessor herausnehmen: im Sockel nach verbogenen oder verschmutzten Kontakten sehen und den Kühler gleichmäßig anziehen. Dann noch einmal testen.
act-leave-channel = Bleibt der Fehler, diesen Kanal leer lassen oder die Hauptplatine ersetzen.
act-lower-speed = Im Setup der Firmware die nächstkleinere Speicherrate wählen und mit allen Modulen nachweisen.
act-fewer-modules = Oder mit einem Modul je Kanal arbeiten.
act-buy-matched = Für alle Steckplätze bei dieser Rate einen Satz kaufen, der für so viele Module verkauft wird und auf der Kompatibilitätsliste (QVL) steht.
act-other-slots = Den anderen Steckplatz jedes Kanals benutzen: Das Handbuch der Hauptplatine nennt, welche zuerst zu füllen sind.
act-one-kit = Die Module eines Satzes behalten. Für mehr Speicher einen größeren Satz kaufen.
act-modules-elsewhere = Dann ist es die Hauptplatine oder der Prozessor: zuerst die Module in einem anderen PC testen.
act-look-beyond = Jenseits des Speichers suchen: Netzteil, Wärme, Laufwerke.
act-borrow-good = Ein bekannt gutes Modul derselben Art leihen oder bestellen. Der Reihe nach für jedes Modul einsetzen: das entscheidet.
act-matched-set = Module, die allein bestehen und zusammen versagen, durch einen abgestimmten Satz ersetzen.
act-compare-elsewhere = Die Module in einem anderen PC testen: bestehen sie dort, ist es diese Hauptplatine oder dieser Prozessor.
act-check-files = Dateien können beschädigt sein: sichern und nach der Reparatur die Systemdateien prüfen.
act-prove = Die Reparatur mit allen Modulen beweisen: ein Volltest (1 h) mit Rechenlast{ $time }. Dann die Startreihenfolge zurückstellen und den Boot-Stick abziehen.
prove-clean = ; { $time } ohne Fehler zeigen mit 95 % Sicherheit, dass es half
prove-once = ; in keiner Bestückung fiel es mehr als einmal aus, deshalb beweist ein fehlerfreier Lauf allein die Reparatur nicht
end-replace = ersetzen
end-elsewhere = allein gut, hier nicht: anderswo verwenden
end-in-question = fraglich
end-keep = lief fehlerfrei, bleibt
end-not-at-fault = nicht die Ursache, bleibt
end-untested = nicht entlastet
job-not-whole = Aufzeichnungen dieses Auftrags sind beschädigt; ein fehlender Fehler beweist deshalb nichts. Den Test wiederholen. Jeder Lauf sagt, was verloren ist.
beyond-updates = Aktualisierungen des Systems
beyond-files = die Prüfung des Systems für seine Dateien
beyond-drivers = Treiber für Chipsatz, Laufwerke und Grafik
beyond-firmware = die Firmware: Aktualisierung oder ihre Vorgaben
beyond-storage = Laufwerke: ihr eigener Zustandsbericht, Kabel
beyond-install = eine frische Installation, möglichst auf einem anderen Laufwerk
beyond-memory = dann noch einmal der Speicher, über Nacht und unter Rechenlast
contra-serial = Zwei Module haben die Seriennummer { $serial }: nach einem Neustart unterscheidet sie nichts. Markieren und einzeln testen.
contra-two-in-slot = Lauf { $run } hat zwei Module in { $slot }; das erste zählt. Ist das falsch, den Lauf ausschließen.
contra-two-slots = Lauf { $run } hat Modul { $module } in zwei Steckplätzen; der erste zählt. Ist das falsch, den Lauf ausschließen.
contra-both = Diese Bestückung bestand und versagte: Der Fehler ist sporadisch, oder neues Einsetzen half. Längere Läufe zeigen mehr.

# Runs side by side
compare-machine = Rechner
compare-settings = Einstellungen
compare-firmware = Firmware
compare-depth = Tiefe
compare-tests = Tests
compare-passes = volle Durchgänge
compare-ran = lief
compare-tested = getestet
compare-one-module = Durchgang eines Moduls
compare-result = Ergebnis
compare-errors = Fehler
compare-slots = in Steckplätzen
compare-no-slot = kein solcher Steckplatz
compare-empty = leer
compare-module-errors = { $module }, { $n } Fehler
common-none = Von keiner fehlerhaften Zelle ist bekannt, dass sie in zweien dieselbe ist.
common-some =
    { $n ->
        [one] { $n } Zelle versagte
       *[other] { $n } Zellen versagten
    } in mehr als einem davon.
common-moved =
    { $n ->
        [one] { $n } Zelle versagte
       *[other] { $n } Zellen versagten
    } in mehr als einem davon, { $moved } davon nach dem Umsetzen des Moduls.

# Stop screens
stop-code = Stoppcode { $code }
stop-code-means = Stoppcode { $code }: { $meaning }
stop-memory-management = die Speicherverwaltung ist widersprüchlich
stop-bus = ein Fehler auf dem Speicherbus
stop-page-list = die Liste der Seiten ist beschädigt
stop-address = eine Adresse, die es nicht gibt
stop-read-in = eine Seite war nicht einzulesen: Speicher oder Laufwerk
stop-hardware = die Hardware meldete einen nicht korrigierbaren Fehler
stop-page-not-empty = eine Seite, die leer sein sollte, ist es nicht
stop-page-damaged = eine Seite wurde von der Hardware beschädigt
stop-pool = die Verwaltung kleiner Speicherblöcke ist beschädigt

# Why something cannot be run
lease-too-much = { $asked } Speicher wurden verlangt, aber nur { $reachable } sind zu haben. { $why } Weniger verlangen
lease-abandoned = das Belegen des Speichers wurde abgebrochen, bevor etwas getestet war
lease-does-not-start = der Rechner startet nicht: { $sign }
lease-out-of-reach = kein Speicher in { $range } war zu belegen: das System hält ihn. Einen größeren Bereich verlangen oder keinen
recipe-unknown-test = es gibt keinen Test namens „{ $name }“. Die Tests sind: { $known }
recipe-no-test = kein Test ist gewählt, nichts würde getestet. Mindestens einen einschalten
recipe-no-pass = 0 Durchgänge testeten nichts. Mindestens 1 verlangen
recipe-no-error = nach 0 Fehlern anzuhalten testete nichts. Mindestens 1 verlangen
recipe-too-little = { $bytes } Byte sind weniger, als testbar ist. Mindestens 1 MiB verlangen
recipe-no-such-core = Kern { $core } ist nicht nutzbar: dieser Rechner hat die Kerne 0 bis { $last }

# A run that nothing ended yet
standing-running = läuft
end-undecided = noch nicht entschieden

not-read-amount = { $text } ist keine Speichermenge. So wird sie geschrieben: 256M oder 4G.
not-read-unit = { $text } hat die Einheit { $unit }. Es gibt K, M, G und T, etwa 256M oder 4G.
not-read-bounds = { $text } kann nicht verlangt werden. Eine Menge über null angeben, etwa 256M.
not-read-address = { $text } ist keine Adresse. So wird sie geschrieben: 0x100000000 oder 4G.
not-read-duration = { $text } ist keine Dauer. So wird sie geschrieben: 90s, 15min, 24h oder 3d.
not-read-range = { $text } ist kein Bereich. So wird er geschrieben: 4G..6G.
not-read-empty = { $text } enthält nichts: Das Ende muss über dem Anfang liegen.
no-such-width = { $bits } ist keine Breite eines Ladebefehls. Möglich: 8, 16, 32, 64, 128, 256 und 512 Bit.
not-used-fields = { $n ->
        [one] { $n } Feld
       *[other] { $n } Felder
    } statt address, expected und actual
not-used-same = expected und actual sind gleich
not-used-line = Zeile { $line }: { $why }

logs-read-none = Kein Protokoll war lesbar.
logs-read-one = 1 Protokoll wurde gelesen: { $log }.
logs-read = { $n ->
    [one] { $n } Protokoll wurde gelesen.
   *[other] { $n } Protokolle wurden gelesen.
}
not-measured-cores = Verlangt sind { $asked } Kerne, aber es gibt { $here }.
not-measured-width = Dieser Prozessor hat keine Ladebefehle mit { $bits } Bit.
not-measured-small = Arbeitsmengen beginnen bei { $least }, die kleinere zuerst.
not-measured-large = Verlangt sind Arbeitsmengen von { $asked }, aber für jeden von { $cores } Kernen sind { $largest } zu haben.
not-measured-nothing = Es bleibt nichts zu messen. Mit --kind nennen, was zu messen ist.
element-address-bits = ein Adressbit nach dem anderen
element-of-copies = { $element } der Kopien
element-opening-rows = Zeilen öffnen
fact-value-right = Prüfsummen stimmen
fact-value-wrong = Prüfsumme falsch: { $sections }

# Stages of a job, and what is confirmed at its end
stage-complaint = Beschwerde
stage-shown = gezeigt
stage-not-shown = nicht gezeigt
stage-found = gefunden
stage-ordered = bestellt
stage-fitted = eingebaut
stage-proved = bewiesen
stage-ruled-out = ausgeschlossen
stage-suspects = andere Ursachen
stage-restored = hergerichtet
stage-handed-over = übergeben
open-step-written-down = eine Umbestückung ist notiert: ausführen und den Rechner starten
open-step-first-run = erster Lauf
open-step-find = das Teil finden: Tausch nennt die nächste Bestückung
open-step-deeper = nächster, tieferer Lauf
open-step-order = bestellen, was an die Stelle des Teils kommt, oder sagen, dass nichts kommt
open-step-fit = einbauen, was bestellt wurde
open-step-prove = die Reparatur beweisen: so lange fehlerfrei laufen, wie die Befunde verlangen
open-step-suspects = lesen, was als Nächstes anzusehen ist
open-step-restore = den Rechner in Ordnung bringen: Einstellungen, Dateien, Startreihenfolge
open-step-hand-over = übergeben
tick-ordered = Teil bestellt
tick-nothing-ordered = nichts bestellt
tick-arrived = Teil ist da
tick-suspects-read = Liste gelesen
tick-settings = Einstellungen gesetzt
tick-files = Dateien geprüft
tick-backup = Sicherung empfohlen
tick-returned = geliehene Module zurückgegeben
tick-boot-order = Startreihenfolge zurückgestellt
tick-drive-out = Startlaufwerk entfernt

lease-elsewhere = der Rechner steht woanders: von seinem Speicher lässt sich hier nichts testen
proposed-shortest = Zuerst der Schnelltest: Er dauert am kürzesten und zeigt die meisten Fehler.
proposed-load = Zuerst der Volltest: Die Beschwerde kommt unter Last, und der Schnelltest läuft ohne Rechenlast.
proposed-time = Zuerst der Nachttest: Die Beschwerde kommt selten, in Ruhe oder bei Wärme, und das braucht Zeit.
proposed-survey = Der Schnelltest war fehlerfrei; der Volltest bringt weitere Tests, Rechenlast und Zeit.
proposed-overnight = Der Volltest war fehlerfrei; eine Nacht lässt Zeit für Seltenes.
proposed-chance = Ist ein Modul schlecht, zeigen es etwa { $count } von 10 solchen Läufen (Schätzung).
clean-for-load-made = Bleibt er fehlerfrei: kein Speicherfehler in einem Lauf von { $time } mit Rechenlast; Grafiklast bleibt ungeprüft.
clean-for-load-missing = Bleibt er fehlerfrei: noch nichts über die Beschwerde, denn dieser Lauf macht keine Rechenlast.
clean-for-cold = Bleibt er fehlerfrei: wenig über eine Beschwerde bei Kälte, außer der Rechner war vorher stundenlang aus.
clean-for-warm = Bleibt er fehlerfrei: kein Speicherfehler in einem Lauf von { $time }, der ihn erwärmt.
clean-for-some-days = Bleibt er fehlerfrei: { $time } sagen wenig über eine Beschwerde, die nur an manchen Tagen kommt.
clean-for-idle = Bleibt er fehlerfrei: kein Speicherfehler in einem Lauf von { $time }, der nur zum Teil Ruhe ist.
clean-for-always = Bleibt er fehlerfrei: eine andere Ursache als der Speicher wird wahrscheinlicher, denn die Beschwerde ist immer da.
do-off-again = Ausschalten, Stecker ziehen, Akku heraus, blankes Metall berühren.
do-off-again-desktop = Ausschalten, Stecker ziehen, das blanke Gehäuse berühren.
