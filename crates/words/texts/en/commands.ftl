
boot-no-drive = there is no drive for them: plug in a USB drive with FAT
boot-no-answer = a driver or a drive of this machine does not answer
boot-cannot-continue = The tester cannot continue; the reason is shown above. This says nothing about this machine's memory. It restarts in a minute.
boot-may-still-work = revisum: { $error }. Testing may still work.
boot-not-off = revisum: the machine did not switch off ({ $why }). { $rest } Use its button.
boot-settings-unreadable = The drive's settings are not used, because settings.toml on it cannot be understood: { $why }
boot-keyboard-not-set = The keyboard layout of the drive's settings is not used: { $why }
boot-own-memory = { $words ->
        [one] One word
       *[other] { $words } words
    } of the memory that this program itself was about to use read wrong. It keeps out of these pages; the first run counts the words and tests them again.
boot-write-protected = the drive is write-protected
boot-file-system = the file system for results is damaged, or the drive fails ({ $error }); make the drive anew
boot-not-started = revisum: the tester cannot be started: { $error }
boot-crashed = The tester crashed { $times } times within ten minutes, last with { $death }. That is a finding: something in this machine does not work, memory, processor or mainboard. What was recorded is kept. The machine restarts in a minute.
boot-death = { $seconds } s after the start: the tester crashed with { $death }
boot-all-written = Everything is written.
boot-not-recorded = NOT RECORDED: { $why }.
boot-may-be-missing = The tester crashed: its latest records may be missing.
boot-drive-out-later = Still to do: take the drive out once the machine is off. If the boot order was changed in the firmware, set it back.
boot-drive-out-now = Still to do: take the drive out now, or the machine boots from it again. If the boot order was changed in the firmware, set it back.
boot-drive-stays = Leave the drive in: the machine starts from it once more, and tests what was out of reach.

# cli.rs
arg-none-of = it is none of { $names }
arg-from-to = give it as FROM..TO, as 4K..1G
arg-bytes = it is a number of bytes
arg-power = it is a power of two from 8 to { $most }
arg-bits = it is a number of bits
arg-number-or-all = it is a number, or all
arg-not-a-number = { $text } is not a number
arg-from-one = it is a number from 1 to { $most }
arg-pace = a pace lies between 0 (as fast as possible) and 1000000

board-raw-in = Everything raw is in { $folder }.
board-serials-in = Serial numbers are in it; --mask leaves them out.
cli-simulated = {"   "}simulated
cli-machine = machine    { $machine }{ $simulated }
cli-computer = computer
cli-mainboard = mainboard
cli-firmware = firmware
cli-processor = processor
cli-controller = controller
cli-settings = settings
cli-unknown = unknown
board-saved-only = memory     { $fitted } installed; only saved data is shown, so nothing can be tested
board-slot-is-empty = empty
board-slot-channel = channel { $channel }
board-slots-are-empty = { $count } slots are empty: { $slots }
board-is-soldered = soldered
board-not-known = Not known: { $count } (--raw)
board-memory-whole = memory     { $bytes } { $whole }
board-raw-machine = machine
board-raw-range = {"  "}{ $first } to { $last }
board-raw-map = memory map { $source }
board-raw-entry = {"  "}{ $first } to { $last }  { $bytes }  { $kind }

check-ended-oddly = the run ended in an unexpected way; its journal holds what was known
check-not-recorded = revisum: NOT RECORDED: { $trouble }. Write down the result: it is not kept.
check-not-shown = revisum: the result cannot be shown: { $error }. In short: { $headline }
check-reads-back = { $journal } reads back differently from what was written
check-other-machine = the run { $id } was made on { $machine }, and this machine is { $here }
check-no-memory-there = there is no usable memory from { $start } to { $end }: this machine's memory ends at { $last }. Choose a range below that, for example 1G..2G
check-asked-too-much = { $bytes } were asked for, and at most { $most } can be had here now. Ask for less, or leave --memory out to test all of it
check-not-in-job = revisum: { $error }. The run is not entered in the machine's job.
check-taking-about = taking the memory about { $time },{" "}
check-one-pass = { $before }one pass about { $pass }, { $end }
check-left-out = left out, no time for them at this depth: { $tests }
check-journal = journal   { $journal }
check-journal-none = journal   NOT RECORDED
check-taking = taking memory
check-left = {"  "}about { $left } left
check-progress = pass { $pass }  { $percent } %  { $test } { $notation }  { $errors } errors{ $left }

drive-unknown-content = unknown content
drive-refused = {"   "}not offered: { $why }
drive-line = { $path } { $name } { $bytes }   on it: { $contents }{ $refused }
drive-none = No drive that can be taken out is there. Plug one in; a USB drive of 512 MiB is large enough.
drive-not-written = { $path } is not written to: { $why }
drive-neither = { $drive } is neither a drive that is offered nor a file that can be written ({ $error }). Nothing was written; `revisum drive list` shows the drives
drive-file-lost = Everything in the file { $file } will be lost.
drive-cannot-write = { $path } cannot be written to
drive-written = { $bytes } written to { $name } and read back, { $rate } a second. It can be taken out now.
drive-as-image = { $bytes } are as in the image; the results were not compared.
drive-say-saved = The computer will start from the drive at its next start, and not into this system. Save all work in all programs first, then say so with --saved, and restart
drive-next-start = The next start is from { $entry }, once. Restart when everything is saved.
drive-image-unreadable = the image { $image } cannot be read: { $error }
drive-on-it = {"  "}on it: { $content }
drive-all-but-results = Everything but its results will be lost.
drive-all-lost = EVERYTHING on it will be lost.
drive-give-name = give the name with --name { $name } to confirm; nothing was written
drive-type-name = Type its name to go on ({ $name }):{" "}
drive-not-its-name = { $typed } is not its name, which is { $name }. Nothing was written
drive-twice = { $drive } is named twice. Nothing was written
drive-broke-off = the writing broke off: the drive is not finished, write it again
drive-no-keyboard = there is no keyboard layout { $name }; there are { $all }. Nothing was written
drive-no-number = the numbers of the drives would go past { $last }. Nothing was written
drive-nobody-answers = nobody can answer here: leave --ask out and say how the drives are to start with options. Nothing was written
drive-question = { $question } ({ $possible }):{" "}
drive-no-answer = { $typed } is no answer to that; Enter leaves it as usual
drive-ask-number = Number of the drive
drive-ask-begin = When does testing begin
drive-ask-screen = Where is the screen
drive-ask-text = How large is text
drive-ask-language = Language
drive-ask-keyboard = Keyboard
drive-ask-sound = A sound
drive-ask-shop = Name of the shop
drive-checking = checking the image
drive-writing = writing
drive-reading-back = reading back

locate-name-a-run = name a run, or --errors FILE.csv
cli-not-written = { $file } cannot be written
firmware-without-command = --firmware opens the full screen on saved facts; with a command, use `board --firmware DIR`
locate-no-map-to-write = this run went by no address map, so there is none to write
locate-map-unusable = the map in the journal cannot be used
locate-map-wrong = revisum: THE ADDRESS MAP IS WRONG: { $words } whose module is known by runs with one module alone do not fall into its slot. The map is not used.
cli-failing-words =
    { $n ->
        [one] { $n } failing word
       *[other] { $n } failing words
    }
learned-no-addresses = learned    nothing: the firmware does not report at which addresses memory is
learned-kept = learned    kept in { $file }; it is proposed when this arrangement comes again
learned-fits = revisum: a map of slots was learned on this mainboard with the same arrangement. --learned goes by it.
learned-nothing-yet = learned    nothing yet: it needs errors with several modules installed, and runs of each module alone that show which one has them
learned-from = learned    from { $words }
cli-words =
    { $n ->
        [one] { $n } word
       *[other] { $n } words
    }
locate-not-understood = revisum: { $lines } more lines were not understood
locate-no-lines = { $file } holds no line of address,expected,actual
cli-not-read = { $file } cannot be read
locate-cli-likely = likely     { $causes }
locate-cli-then = , then{" "}
locate-cli-again = again      { $again }
locate-cli-outside = outside    { $n ->
        [one] { $n } word
       *[other] { $n } words
    } outside of the map
locate-cli-limit = limit      { $limit }
locate-cli-more = … and { $n ->
        [one] { $n } more group
       *[other] { $n } more groups
    } (--json)
locate-cli-no-workaround = No workaround: { $why }.
locate-cli-many = many data lines
locate-cli-group = { $slot } { $group } { $words }  { $lanes } from { $first }
cli-words-plain =
    { $n ->
        [one] { $n } word
       *[other] { $n } words
    }
locate-cli-workaround = Until the module is replaced, these ranges can be excluded; it costs { $bytes }.
locate-cli-kernel = Linux, kernel parameters   { $parameters }
locate-cli-grub = Linux, GRUB settings       { $settings }
locate-cli-windows = Windows, as administrator  { $line }

logs-modules-are = { $modules } modules are in { $file }.
logs-one-by-one = revisum: { $why }; the journals are read one by one
logs-no-module = No run has a module { $serial }.
logs-left-out = revisum: left out: { $problem }
logs-no-words = No run has these words
logs-no-runs = No runs in { $folder }. `revisum check` makes one
logs-simulated = {"  "}simulated
logs-more = { $more } older ones are left out; --most lists more.

ledger-is-shared = From now on the ledger of this folder is kept by { $server }, under the name { $name }.
ledger-not-let-go = revisum: what this folder holds is still on the server: { $why }
ledger-is-own = From now on the ledger is kept in { $file }.
ledger-aside = revisum: runs of other folders are missing: { $why }
ledger-kept-by = The ledger is kept by { $server }. It finds the records of
ledger-kept-here = The ledger is kept in { $file }. It finds the records of
ledger-this-folder = this folder
ledger-named-here = { $name } (this folder)
ledger-holding =
    {"  "}{ $name } { $runs ->
        [one] { $runs } run
       *[other] { $runs } runs
    }, { $jobs ->
        [one] { $jobs } job
       *[other] { $jobs } jobs
    }
logs-elsewhere = in the records of { $name }

demo-no-machine = there is no machine of that name in the workshop

report-follows = the report follows from these journals
report-other-journals = these are other journals
report-checksum = { $words }: their checksum is { $sum }
language-unknown = there is no language { $tag }; there are { $known }

result-simulated = {"  "}(simulated)
result-clock-wrong = {" "}(the machine's clock is wrong)
result-machine = machine   { $machine }
result-started = started   { $time }{ $doubtful }
result-took = took      { $time }
result-memory = memory    { $memory }
result-continues = {"          "}Continues the run { $run }; all figures are of both together.
result-repeats-run = {"          "}Repeats what the run { $run } showed.
result-no-addresses = {"          "}Physical addresses are unknown to this user.
result-col-test = test
result-col-passes = passes
result-col-errors = errors
result-col-swept = swept
result-col-rate = rate
result-guest = ; a virtual machine's own share and addresses
result-ranges-trusted = ; a virtual machine's own share and addresses, its firmware believed about slots (test)
result-slot-unknown = slot unknown
result-or = {" "}or{" "}
result-errors =
    { $n ->
        [one] { $n } error
       *[other] { $n } errors
    }
result-lines = data lines    { $lanes }
result-because = because       { $why }
result-address-unknown = address unknown
result-sample = { $address } expected { $expected }  read { $actual }  { $kind }  { $test }

short-of-memory = There is no memory left for the program itself, so it ends. What is on record stays; a run that was going on is one that broke off. Close other programs, or test less with --memory.
speed-not-timed = Speed could not be measured: { $why }
speed-stopped-before = It was stopped before anything was timed
speed-pages = pages      { $share } % of what was measured is in large pages
speed-memory-itself = memory itself
speed-set-of-each = , set of each
speed-loads-apart = loads so far apart, one core, memory
speed-by-width = { $kind } by width, one core, memory
speed-bits = { $bits } bits{ $pad }{ $value }

swap-case-unreadable = the case cannot be read from stdin
swap-cli-job = job { $machine }   { $runs } runs
swap-cli-closed = closed: { $answer }
swap-cli-clean = No run of this job found an error, so there is no part to look for. Next, in this order:
swap-cli-found = FOUND
swap-cli-open = OPEN
swap-cli-order = order
swap-cli-proof = PROOF
swap-cli-next = NEXT
swap-cli-because = because
swap-cli-if-errors = if errors  { $forecast }
swap-cli-if-clean = if clean   { $forecast }
swap-cli-or = or
swap-cli-step = { $title } { $step }   hands-on { $hands } min, test { $machine }

system-kept-entries = { $entries } entries are kept in the job.
system-log-nothing = No entry is about memory. { $looked } That proves little: many systems log nothing of it.

tests-not-march = this is not march notation: { $error }
      { $notation }
      { $pointer }
tests-no-test = there is no test named { $name }. The tests are: { $names }
tests-notation = notation     { $notation }
    length       { $length }
tests-backgrounds = backgrounds  { $backgrounds }
tests-order = order        { $order }
tests-pass = one pass     { $n ->
        [one] { $n } sweep
       *[other] { $n } sweeps
    } of the memory
tests-source = source       { $source }
tests-sees = memory sees  { $sees }
    cannot say   { $limits }
tests-on-request = on request   Runs only when it is named.
tests-as-march = As a march on single bits, computed on a small array:
    
    { $table }
tests-operations =
    { $n ->
        [one] { $n } operation
       *[other] { $n } operations
    }
tests-length =
    { $operations } on each cell, in { $n ->
        [one] { $n } sweep
       *[other] { $n } sweeps
    }

tests-more = `revisum tests NAME` shows what a test does and detects.
tests-as-run =
    As it is run here, behind a cache and a queue of writes: found of random pairs of cells so far apart, in percent; one core
    sweeps. Where several cores sweep shares, cells of different shares are not ordered against each other.

arg-unknown = { $argument } is not known here.
arg-no-command = There is no command { $command }.
arg-meant = Did you mean { $this }?
arg-not-one = { $value } is not possible for { $argument }. Possible: { $values }.
arg-refused = { $argument }: { $why }
arg-not-a-value = { $value } is not a value for { $argument }.
arg-missing = Missing: { $arguments }.
arg-without-value = A value is missing after { $argument }.
arg-not-both = { $argument } cannot be used with { $other }. Leave one of them out.
arg-twice = { $argument } is given more than once.
arg-not-understood = These arguments cannot be read.
arg-see-help = { $command } lists what there is.

# rows.rs
rows-no-addresses = Physical addresses are not known here (only root may see them), so nothing can be learned of rows.
rows-none-show = This machine does not show its rows: no pair of words takes longer than others. A virtual machine hides them, or the memory controller closes each row after use.
rows-open = Some pairs of words take longer, but no functions of address bits explain them well enough. Nothing is claimed.
rows-took = took { $seconds } s
rows-found = { $banks } banks, chosen by { $count } parities of address bits:
rows-turns = { $ways } ways take turns, every { $bytes } bytes.
rows-offset = { $offset } is taken off addresses from { $from } on.
rows-step = The nearest other row of a bank: turn over bits { $bits }.
rows-simulated = Everything here is simulated.
rows-never-confirmed = Measured, and held against fresh pairs. Which slot belongs to which function is not known from this; no real board has confirmed it yet.
rows-channels = { $count } channels; half of them carries { $part } % of what all do. Chosen by:
rows-channels-not-timed = Channels: streams cannot be timed here.
rows-channels-none = Channels: no function takes bandwidth away. There is one channel, or the cores cannot fill more than one.
rows-channels-open = Channels: what was measured contradicts itself. Nothing is claimed.
rows-no-thermometers = Not every module has a thermometer that is known to be in a slot: nothing was warmed.
rows-slot-warmed = { $slot } is on channel { $channel }: its module got warmer while that channel was read.
rows-slot-not-warmed = { $slot }: its module did not get clearly warmer with any channel.
rows-kept = Kept in { $file }. Runs in this arrangement and Locate use it.
rows-kept-before = The same was kept before.
rows-kept-no-mainboard = Not kept: nothing says which mainboard it belongs to.
rows-kept-not-usable = Not kept: neither two channels nor one slot for each channel came out.
rows-stopped = Stopped. Nothing was learned.
rows-stage-pairs = timing pairs of words …
rows-stage-streams = timing streams …
rows-stage-warming = warming modules: { $done } of at most { $of } turns …

# wall and card
wall-listens = listening on { $address }
card-shop = Revisum shop
card-no-keys = the shop's keys cannot be read or kept
card-not-written = the card cannot be written to { $file } ({ $why }). Nothing was made; name a file that is not there yet.
card-written = Card { $id } is in { $file }. Put it into the machine's data folder; whoever has it is taken for that machine.
card-line = { $number }  { $id }
card-none = No card is in use.
card-not-known = no card in use is { $card }; “revisum card list” has all of them
card-taken-back = Card { $id } opens nothing any more.
network-no-number = Machines that start over the network share what is said here; numbers are for drives. Leave “--number” out.
network-not-empty = { $folder } is not empty. Nothing was written; name an empty folder or one that is not there yet.
network-no-image = { $image } cannot be used ({ $why }). Nothing was written; make the image anew with “cargo xtask image”.
network-not-written = { $file } cannot be written
network-written = { $folder } has all that a server hands out; dnsmasq.conf in it is an example. Old firmware starts with revisum.pxe, UEFI with shimx64.efi.
