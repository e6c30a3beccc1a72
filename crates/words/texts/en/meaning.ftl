# The depths of a run
depth-triage = triage
depth-survey = survey
depth-overnight = overnight
depth-triage-is = one pass of the tests that find the most in minutes: finds what is broken outright
depth-survey-is = every test, as many passes as fit into an hour
depth-overnight-is = every test with long idles, as many passes as fit into eight hours: finds what shows now and then

# The end of a run that is planned
end-passes =
    { $n ->
        [one] { $n } pass
       *[other] { $n } passes
    }
end-soak = until the temperature is stable
end-for = for { $time }
end-never = until stopped
end-at-most = , at most{" "}

# How sure a slot is
certainty-certain = certain
certainty-told = by registers
certainty-assumed = assumed
certainty-one-of = one of these
certainty-unknown = unknown

# What re-reading an error showed
reread-recurring = repeats after rewrite
reread-stored = stays until rewritten
reread-transient = gone on re-read
reread-unsteady = changes between reads
reread-not-looked = not re-read

# What is measured
measured-read = read
measured-write = write
measured-stream = write past caches
measured-copy = copy
measured-latency = latency

# Fault models
model-saf = a cell always holds the same value
model-tf = a cell cannot change in one direction
model-wdf = writing the value that a cell holds flips the cell
model-rdf = a read flips the cell and returns the flipped value
model-drdf = a read flips the cell but still returns the right value
model-irf = a read returns the wrong value, the cell is right
model-sof = a cell cannot be reached, reads repeat the last read
model-af = addresses reach no cell, another one, or several
model-cfst = a cell's state forces another cell
model-cfin = a change of a cell inverts another cell
model-cfid = a change of a cell forces another cell
model-cfds = any access to a cell flips another cell
model-cftr = a cell's state keeps another from changing
model-cfwd = a cell's state makes a write disturb another
model-cfrd = a cell's state makes a read destroy another
model-cfdrd = the same, hidden once
model-cfir = a cell's state makes another cell read incorrectly
model-lcf = two couplings that can hide each other

# What the memory sees of a test
sees-address-lines = A few thousand words, each written and read past the caches.
sees-copies = Every word written past the caches, read while it is copied, and read again in both places.
sees-disturbance = Rows opened again and again past the caches, a few of them; then all words read once.
sees-every = Every read and write.
sees-fills = Fills go past the caches.
sees-behind = What is written behind a read is put back into the memory { $distance } behind the sweep.
sees-streamed = What is written behind a read goes past the caches as well.
sees-several = Elements with several operations go over { $block } at a time, operation by operation, each of them put back before the next.
sees-order = Cells { $from } or more apart see the order of the march; between closer ones writes that wait in the memory controller can turn it round.
own-purpose = A test of your own.
own-limits = What it finds is what its grade says.

# How a run ended
ended-plan = all passes done
ended-time = the time was up
ended-error-limit = stopped at the error limit
ended-hand = stopped by hand
ended-broke-off = broken off by power loss, hang or restart

# How far it is
progress-first = first pass not finished
progress-passes =
    { $n ->
        [one] { $n } pass
       *[other] { $n } passes
    }
progress-of = { $done } of { $planned } passes
progress-time = { $done } of { $planned }

# The result in a line
told-void = Self-check failed: result void
told-errors =
    { $n ->
        [one] { $n } memory error
       *[other] { $n } memory errors
    }
told-uncorrectable =
    { $n ->
        [one] { $n } uncorrectable hardware error
       *[other] { $n } uncorrectable hardware errors
    }
told-miscalculated = Computed wrong: { $n ->
        [one] { $n } number
       *[other] { $n } numbers
    }
told-corrected = Only corrected errors: { $n }
told-clean = Clean
told-so-far = Clean so far: { $progress }
told-no-full-pass = Nothing found, but no full pass
told-not-whole = Record damaged: nothing found in the rest of it
told-nothing-tested = Nothing found, but no memory stayed in the test
headline-in = {" "}in { $place }
headline-places = {" "}in { $n } places
headline-on = {" "}on { $tested } of { $whole }
headline-on-unknown = {" "}on { $tested }, installed memory unknown
headline-ended = , { $how }
headline-unproved = , no self-check ran
headline-damaged = , record damaged
headline-again = Shown again:{" "}
headline-not-again = Not shown again:{" "}

# The result in sentences
result-void = The tester failed its self-check: it did not notice an error that it had made. The result is void: run it again, and from another boot drive if this happens again.
result-none-so-far = No errors so far.
result-newer = A newer program wrote this record: not all of it is understood.
result-may-be-more = There may be more errors than are counted here.
result-may-have-held = The lost records may have held errors: run the test again.
result-even-one = Even one memory error means a fault.
result-miscounted = What was counted did not agree with itself, and the larger count is shown: the memory in which the tester itself works may be bad too.
result-computed =
    { $n ->
        [one] { $n } number
       *[other] { $n } numbers
    } came out wrong while computing under load.
result-reported = The hardware reported { $n ->
        [one] { $n } uncorrectable memory error
       *[other] { $n } uncorrectable memory errors
    }.
result-corrected = The hardware corrected { $n ->
        [one] { $n } memory error
       *[other] { $n } memory errors
    }.
result-read-none = {" "}The test itself read no error.
result-broke-first = The record breaks off before the first test began: power loss, hang or restart.
result-broke-in = The record breaks off in pass { $pass } at { $percent } % of it, in { $test }: power loss, hang or restart.
result-in-time = No errors in the { $time } that it ran.
result-in-passes = No errors in { $n ->
        [one] { $n } full pass
       *[other] { $n } full passes
    } ({ $time }).
result-within = { $within } of the { $ran } that it ran
result-first-at = { $time }, at { $celsius } °C
result-repeats = The run { $run } showed it after { $first } in the same tests.
result-too-little = That is too little to rule anything out.
result-ruled-out = Ruled out with 95 % confidence: random faults more often than once in { $interval }, and faults that show in more than { $percent } % of passes. Rarer faults are not ruled out.
result-patterns-and-load = test patterns and computing load
result-patterns = test patterns
result-asleep = , asleep for { $time }
result-at-one = {" "}at { $high } °C
result-at-range = {" "}at { $low } to { $high } °C
result-not-computing = computing load
result-not-warm = warm memory: no sensor reported a temperature
result-not-on-die = single bits that DDR5 corrects on the die
result-shortest = {" "}Shortest test over all memory: { $test }, { $time }.
result-covered = Covered: { $load }{ $warm }{ $asleep }, { $coverage }.{ $least }
result-not-covered = { $covered } Not covered: { $missing }.
result-of-it-paused = , { $time } of it paused
result-of-it-stalled = , { $time } of it stopped from outside: nothing ran
result-only-warm = Errors came only at { $celsius } °C and above: the fault shows when it is warm.
result-warmth-none = From { $from } to { $to } °C warmth made no difference to the errors.

# How much was tested
coverage-of = { $tested } of { $whole } tested ({ $percent })
coverage-unknown = { $tested } tested, installed memory unknown
coverage-less = less than 0.1 %
left-out = { $bytes } { $reason }
left-unfinished = not finished
left-moved = moved while being tested
left-taken-out = taken out after a hardware error
left-chosen = left out by choice
left-firmware = kept by the firmware
left-system = used by the running system

# The result in a word
outcome-clean-so-far = clean so far
outcome-clean = clean
outcome-errors-found = errors found
outcome-cut-short = cut short
outcome-interrupted = interrupted
outcome-not-whole = record damaged
outcome-checking-failed = self-check failed

# Damage of a record
damage-torn = the last record was torn off and is left out
damage-damaged =
    { $n ->
        [one] { $n } line
       *[other] { $n } lines
    } damaged and left out
damage-missing =
    { $n ->
        [one] { $n } record
       *[other] { $n } records
    } missing
damage-unknown =
    { $n ->
        [one] { $n } record
       *[other] { $n } records
    } of a newer program not understood
damage-displaced =
    { $n ->
        [one] { $n } record
       *[other] { $n } records
    } not where it was written
damage-unreadable =
    { $n ->
        [one] { $n } file
       *[other] { $n } files
    } of it cannot be read
damage-whole = This record is not whole{ $place }: { $parts }.
damage-from = {" "}from { $from } on
damage-between = {" "}between { $from } and { $to }
journal-newer = A newer program wrote this journal (format { $format }): it is shown as far as it is understood.

# Why a run has no end
broke-power = the power went
broke-hang = it hung: nothing moved any more
broke-restart = it restarted unexpectedly
broke-memory = the hardware reported a memory error
broke-fault = the program ended through a fault of its own
broke-purpose = it was switched off on purpose
broke-unknown = not known

# Entries of a system's logs
log-uncorrected = memory error
log-check-found = memory check found errors
log-page-retired = page excluded
log-corrected = corrected error
log-machine-check = machine check
log-stop-screen = stop screen
log-check-clean = memory check found nothing


# Counts of things
cores-one = one core
cores-some = { $cores } cores

# Joining
join-and = {" "}and{" "}
join-and-more = {" "}and { $more } more
join-or = {" "}or{" "}

# Who holds memory
whole-installed = installed
whole-given = given to the operating system
whole-seen = seen by the system
part-testable = can be tested now
part-kernel = the kernel: its code and tables
part-system = the running system and other programs
part-reserve = reserved to keep the system running
part-lock-limit = more than this user may lock
part-withheld = withheld from the kernel, which does not hand it out ({ $why })
part-firmware = firmware and devices
part-unaccounted = not accounted for
limit-lock-limit = Without root only a little memory may be locked and its addresses are unknown. Run as root for all of it.
limit-system = The running system and other programs need the rest.

# Who logged an error
source-kernel-log = the kernel's log
source-crash = what a crash left behind
source-boot-record = the firmware's boot error record

# Findings: what, and what to do
errors-corrected =
    { $n ->
        [one] { $n } corrected memory error
       *[other] { $n } corrected memory errors
    }
errors-uncorrected =
    { $n ->
        [one] { $n } uncorrected memory error
       *[other] { $n } uncorrected memory errors
    }
errors-both = { $corrected } corrected and { $uncorrected } uncorrected memory errors
found-counted = The hardware counted { $errors } since the start, at { $places }
do-counted = Corrected errors that go on belong to a module that is failing. Test it, and replace it before they become uncorrected.
found-logged = Errors on record: { $errors }{ $at }. Source: { $sources }
found-logged-at = , at { $places }
found-logged-nowhere = , at no known slot
do-logged = They happened in use, not in a test: believe them. Begin with the module that they name.
found-missing = { $installed } are installed, but the firmware hands over only { $given }: { $missing } are missing
do-missing = The missing module is poorly seated, faulty, or more than the mainboard supports. Reseat it, then test it alone.
do-missing-not-mapped = The firmware's own tables leave the same memory out: it does not use one of the modules. Reseat them, then test them one at a time.
do-missing-reserved = The memory map reserves it below 4 GiB, most likely for graphics. The firmware's settings say how much graphics takes.
do-missing-nothing-high = Nothing is mapped above 4 GiB. Look in the firmware's settings for memory remapping, or update the firmware.
found-less = With the same modules the firmware handed over { $was } last time, { $is } now
do-less = Part of the memory has dropped out since. Reseat the modules, then test them one at a time.
found-changed = Not as last time: { $changes }
change-emptied = { $slot } had { $was } and is empty
change-filled = { $slot } was empty and has { $is }
change-other = { $slot } had { $was } and has { $is }
do-changed = If you moved them, all is well. If not, a module is missing: reseat it.
found-damaged-spd = The module's own description does not match its checksum: { $slots }
do-damaged-spd = The firmware may set it up wrongly. Clean its contacts and read again; if it stays so, do not trust the module.
found-crowded = Several modules share channel { $channel } while another channel is empty
do-crowded = Move one of them to { $free }: two channels carry nearly twice as much.
do-crowded-of-many = Move one of them to { $free }: each channel that has a module adds to how much memory carries.
found-unbalanced = The channels do not hold the same amount of memory: { $channels }
channels-hold = { $size } on { $channels }
do-unbalanced = Move the module in { $from } to { $to }: the channels then hold nearer to the same amount, and more of the memory runs at full speed.
do-unbalanced-by-size = What one channel holds more than the others is slower. Modules of equal size in each channel would cure that; a test does not need it.
found-idle = { $used } of { $of } memory channels are used
do-idle = More modules of the same kind, one in each channel, would make memory faster. For a test it does not matter.
found-mixed = Modules of different { $traits } are mixed
trait-maker = makers
trait-size = sizes
trait-ranks = ranks
trait-speed = speeds
do-mixed = Each may be good and the mix not. If errors show, test the kits apart before blaming one.
found-below = Runs below its rated speed: { $slots }
below-at = { $slots } at { $speed } of { $rated } MT/s
do-below = Stock settings (a profile can be lost with the battery), a slower module installed with it, or the processor's limit. Leave it so while you look for errors; then switch the profile on and run again.
found-profile-on = Runs above its base speed, so a profile is on: { $slots }
above-at = { $slots } at { $speed }, made for { $base } MT/s
do-profile-on = Errors may come from the settings alone. Test as it is first; if errors show, switch the profile off and run again before any part is blamed.
found-off-profile = Runs at a speed that is neither its base speed nor a profile's: { $slots }
do-off-profile = The speed was set by hand. Set a stored profile or the base speed, then test: errors may come from the settings alone.
found-old-firmware = The mainboard's firmware is { $years } years old ({ $date })
do-old-firmware = Newer firmware often sets memory up better. Look for an update before a module is called unfit for this mainboard.
found-encrypted = Memory is encrypted by the processor
do-encrypted = One bad bit garbles a whole block, so data lines are unknown. To see data lines, switch encryption off in the firmware.
found-disputed = Sources disagree on the { $facts }
disputed-fact = { $name } of { $slot }: { $values }
do-disputed = Compare with the label. A module that states other data than its label is relabelled or damaged.
found-no-serials-at-all = The firmware gives no serial numbers
found-no-serials = The firmware gives no serial number for { $slots }
do-no-serials = Mark these modules with a dot of paint. Nothing else distinguishes them after a swap.
found-same-serials = { $slots } state the same serial number
do-same-serials = The maker or the firmware gave both the same number, so this program cannot distinguish them. Mark them by hand and test one at a time.
found-no-spd = The modules' own descriptions (SPD) could not be read
do-no-spd = This is what the firmware reports. Whether a profile is on is unknown: look in the firmware's settings.
found-guest = This is a virtual machine
do-guest = Only its own share of the memory is tested, and addresses are its own. To test the computer, start it without.
found-no-tables = The firmware's tables do not report what is installed
do-no-tables = Errors cannot be placed on slots here. Test one module at a time and write down which.
found-hidden = The memory map is hidden from this user
found-map-not-saved = The saved facts hold no memory map
do-map-not-saved = Which addresses can be tested is unknown. Save them again as root on that computer to have it.
do-hidden = Which addresses can be tested is unknown. Run as root to see them.

# Measured speed
speed-one-channel-both = Memory carries { $rate }, { $share } of what { $channels } channels give: both modules share one channel
speed-one-channel-all = Memory carries { $rate }, { $share } of what { $channels } channels give: all modules share one channel
do-one-channel = Move one of them to { $free }, then measure again.
speed-lost-channel = Memory carries { $rate }, { $share } of what { $channels } channels give, although each has a module
do-lost-channel = A channel may be lost: a contact that does not close, or a setting. Reseat the modules, then measure again.
speed-profile-sold = Memory carries { $rate }, as expected for { $speed } MT/s; these modules are sold for { $sold }: the profile is off
speed-profile-stored = Memory carries { $rate }, as expected for { $speed } MT/s; a profile is stored in the modules, and it is off
do-profile = Leave it off while errors are looked for. For speed, switch it on in the firmware and test again: not every processor supports it.
speed-tables-wrong = Memory carries { $rate }, more than { $channels } of { $speed } MT/s could: the firmware's tables are wrong
do-tables-wrong = Do not rely on what they say about channels and speeds, nor on slots that are named by them alone.
channels-one = one channel
channels-some = { $channels } channels
about-half = about half
percent = { $percent } %
verdict-speed = { $rate }, { $percent } % of the theoretical peak of { $channels } at { $speed } MT/s
verdict-more = { $what }: the tables understate it.
verdict-expected = { $what }: as expected.
verdict-less = { $what }: less than usual.
verdict-cores = { $what }. The cores are the limit here, not the memory.
not-judged-guest = Inside a virtual machine: others share this memory, and the tables may describe a different machine. Nothing is concluded.
not-judged-small = No working set was larger than the caches, so nothing is said about the memory itself.
not-judged-unknown = How fast it should be is not known: { $why }.
not-known-modules = no table reports which modules are installed
not-known-channels = the firmware does not report the channel of each slot
not-known-speeds = the firmware does not report the speed in force of each module

# What is not known of a board
unknown-spd = The SPD at { $place } cannot be used: { $why }.
unknown-spd-unmatched = The SPD at { $place } ({ $module }) matches none of the modules in the tables: it is listed separately.
unknown-tables = There are no SMBIOS tables, or they may not be read (only root may): slots have no names here.
unknown-map = The memory map cannot be read: only root may see addresses.
unknown-encryption = Whether the processor encrypts memory is unknown here.
controller-unknown = The memory controller { $id } is not known: its registers are not read, and errors are not assigned to slots by them.
controller-missing = The register { $place } of the memory controller was not read: errors are not assigned to slots by registers.
controller-contradiction = The registers of the memory controller contradict each other or the tables ({ $what }): errors are not assigned to slots by them.
controller-undocumented = The memory controller is set up in a manner that no document describes for certain ({ $what }): errors are not assigned to slots by its registers.
contradiction-switched-off = its registers are switched off
contradiction-no-memory = no channel has memory
contradiction-sizes = the sizes of modules
contradiction-channels = the sizes of channels
contradiction-window = the window for memory under devices
contradiction-not-one-to-one = an address has two places, or none
contradiction-reserved = a reserved value
undocumented-channel-hash = the function that chooses the channel
undocumented-channel-order = the order of channels
undocumented-nodes = several processors or dies that share memory
undocumented-partly-interleaved = channels of unequal size that are interleaved in part
undocumented-exchanged = an exchanged region of addresses
undocumented-ganged = two channels that work as one
undocumented-second-select = second addresses of a chip select
unknown-timings = Timings and command rate in force are in registers of the memory controller that are not read; timings shown are those that a module states for its base speed.

# What to order
order-one = one module: { $what }.
order-several = { $n } modules: { $what }.
order-labels = The same kind as the modules that stay: compare the labels.
order-ranks =
    { $n ->
        [one] { $n } rank
       *[other] { $n } ranks
    }
order-timings = timings { $timings } or lower
order-ecc = with ECC
order-no-ecc = without ECC
order-part = Preferably the same part number: { $part }.
order-only = It is the only module: size and speed are free within what the mainboard accepts.
order-others = The modules that stay are of another kind: a matched set for all slots is safer than one more kind.
order-twins = Combine it with modules of the same part number. If that one is no longer sold, buy a matched set for the channel.
order-slowest = All run as fast as the slowest: { $speed } is enough.
order-new = New rather than used. Do not mix registered with unbuffered, ECC with non-ECC, or different ranks in one channel.
order-list = Check the memory support list (QVL) of the { $board }.

# What failed
shape-cell = a single cell
shape-column = one column of one bank
shape-row = one row of one bank
shape-bank = one bank
shape-lane = one data line
shape-lane-pair = two data lines
shape-byte-lane = one byte lane
shape-address-line = one address line
shape-half-module = one rank
shape-whole-module = the whole module
shape-channel = every slot of a channel
shape-decoder-doubles = words that answer to two addresses
shape-scattered = single bits here and there
shape-machine = all modules alike
cause-module = the module
cause-contact = its contacts in the slot
cause-slot = the slot
cause-settings = the settings
cause-controller = the memory controller
why-inside = Cells, rows, columns and banks exist only inside a chip: nothing outside the module fails like this.
why-decoder = An address decoder inside a chip is faulty, or an address line reaches it weakly.
why-lane = A data line is one contact and one trace: clean the contacts and reseat before you blame a part.
why-byte-lane = A byte lane is one chip, or two, with its own strobe: a dead chip, or its contacts.
why-address-line = An address line goes to every chip: a contact, a trace, or the register on the module.
why-rank = A rank is one side of many modules and has a select line of its own.
why-whole = Everything in it fails: it may not be seated, or not be set up.
why-channel = Several modules of one channel seldom fail together: what they share is the channel, its settings and its side of the controller.
why-scattered = Single bits without a pattern come with too little margin: settings that are too fast, heat, a weak supply.
why-machine = Modules seldom fail alike at the same time: what they share is the controller, its supply and the settings.

# Where it failed
ground-assumed-map = by an address map that no run has confirmed yet
ground-map = the address map of this arrangement is known
ground-slots-unknown = the firmware does not report which slots are in use
ground-one-module = only one module is installed
ground-learned-map = by a map of slots that was learned when this mainboard had the same arrangement before
ground-registers = the memory controller's registers tell which slots hold an address; no real board has confirmed that
ground-firmware-ranges = no address map is known for this arrangement; the firmware reports which slots hold an address
ground-no-map = no address map is known for this arrangement, so any slot in use is possible
ground-one-half = no address map is known, but all errors are in the same half of the addresses: on one of the two channels, as read times showed
surer-move-any = Move any module to another slot and start once: the registers then show which slot is which, and no error is needed for it.
surer-run-alone = A run with this module alone in its slot makes it certain.
surer-one-at-a-time = Runs with one module at a time make it certain.
surer-declare = Declare slots and modules (e in Board), then test one module at a time.
surer-exchange = Exchange the modules of the two channels and run again: if the errors change to the other half, it is the module.
locate-refuted = The address map of this run is wrong: runs with one module alone, or error counters, contradict it. It is not used.
locate-no-addresses = Addresses are unknown: any of the installed modules can have the errors.
locate-without-map = No address map: rows, columns and banks are unknown. One of them, on the same data lines, would look the same.
locate-flood = Too many errors to analyse one by one: rows, columns and banks unknown, only data lines and slots.
locate-encrypted = Memory is encrypted: data lines are unknown.
locate-guest = Addresses are a virtual machine's own.
locate-ranges-trusted = A virtual machine's firmware was believed about its slots, for a test: on a real machine its memory controller decides.
locate-on-die = DDR5 corrects single cells on the die. A word is two beats of 32 data lines: bits 32 to 63 use the same lines again.
locate-none-known = No failing words are known.
locate-beyond = The failing words are outside of what the map holds.
locate-in-one-of = In one of { $slots }
locate-in-unknown = In a slot that is not known
locate-dq-one = , DQ { $one }
locate-dq-two = , DQ { $one } and { $two }
locate-dq-range = , DQ { $first } to { $last }
locate-words-failed =
    { $n ->
        [one] { $n } word
       *[other] { $n } words
    } failed
locate-words-sample = Read from { $n ->
        [one] { $n } word
       *[other] { $n } words
    } of those that failed ({ $all } wrong reads in all)
locate-strays = ; { $n ->
        [one] { $n } word
       *[other] { $n } words
    } not explained by it
locate-statement = { $place }: { $shape }{ $lanes }. { $words }{ $strays }.
locate-only-fit = no other fault pattern fits
locate-fit = about { $odds } times as likely as all other fault patterns together
word-one-for-zero = reads 1 for 0
word-zero-for-one = reads 0 for 1
word-both = reads 1 for 0 and 0 for 1
word-repeats = { $reads }, repeats after rewrite
word-gone = { $reads }, gone on re-read
word-gone-some = { $reads }, gone on { $right } of { $all } re-reads
group-row = rank { $rank } bank { $bank } row { $row }
group-column = rank { $rank } bank { $bank } column { $column }
group-bank = rank { $rank } bank { $bank }
group-page = page { $address }
group-rest = single words
again-same-one = The same word
again-same-some = The same { $words } words
again-stayed =
    { $same } of { $module } failed in { $runs ->
        [one] { $runs } run
       *[other] { $runs } runs
    }, always in slot { $slot }: it was not moved in between.
again-moved = { $same } of { $module } failed again after it was moved ({ $slots }): the fault goes with the module.
again-then = , then{" "}
workaround-own = {" "}The addresses are this virtual machine's own and mean nothing outside of it.
workaround-warning = A workaround only: replacing the module is better. A fault may grow, and after any change of modules, settings or firmware the addresses are others.{ $own } In a GRUB configuration write \$ for $.
refusal-nothing = nothing failed, so there is nothing to exclude
refusal-no-addresses = the addresses are unknown: run as root to see them
refusal-shape = this looks like { $shape }: other addresses would fail next, so excluding ranges cannot help. Replace or reseat the module
refusal-too-much = { $bytes } of memory in { $ranges } ranges would be lost: too much for any system's list. Replace the module

# How slots share addresses
layout-channels = channels: { $how }
layout-channel = channel { $channel }: { $how }
layout-alone = { $label } alone
layout-border = { $first } then { $second }, the border between { $from } and { $to }
layout-behind = one behind the other: { $borders }
layout-parities = { $labels } by the parities of { $masks }
layout-turns = { $labels } take turns of { $granule } bytes
layout-open = open: { $what }
open-no-word = no failing word of { $labels } is known yet: the failing module there, with the same slots filled, would decide{ $so_far }
open-so-far = ; of the others, { $open }
open-no-parity = no parity of address bits and no turns agree with these words: one of them has another slot
open-dimensions = { $more } dimensions are open; errors of one module at addresses that differ in bits { $bits } would decide
open-unseen-bits = that were not seen together yet

# Odds
band-very-likely = very likely
band-likely = likely
band-possible = possible
band-unlikely = unlikely
suspect-module = module { $module }
suspect-unfit = module { $module }, good, but incompatible with this mainboard
suspect-slot = slot { $slot }
suspect-channel = channel { $channel }
suspect-too-many = too many modules for these settings
suspect-position = the slots in use
suspect-kits = modules of different kits together
suspect-no-part = poor seating or a one-off error
suspect-combination = { $module } with others installed
suspect-pair = { $a } and { $b } together
suspect-settings = the settings
suspect-controller = mainboard or processor
suspect-two = modules { $a } and { $b }
suspect-module-slot = module { $module } and slot { $slot }
suspect-other = something else
leading-nothing = Nothing is known yet.
leading-most = Most suspect: { $suspect } ({ $band }).
leading-rivals = {" "}Not ruled out: { $rivals }.
becomes-likelier = { $leader } ({ $band }); { $other } becomes more likely
graded = { $what } ({ $band })

# Why a suspect leads: the observations that moved the odds most
because-ran = { $times ->
    [one] { $came } with { $modules }
   *[other] { $came } with { $modules } ({ $times } runs)
  }
because-clean = no error
because-errors = errors
because-errors-in = errors in { $slots }
because-dark = no start
because-starts = it starts
because-all = all modules
because-all-in = all modules in { $slots }
because-set = {" "}at { $settings } settings
because-all-but = all modules but { $modules }
because-cells-followed = { $module } moved: the same cells failed again
because-cells-changed = { $module } moved: other cells failed
because-lanes-followed = { $module } moved: the same byte lane failed again
because-lanes-changed = { $module } moved: another byte lane failed
because-cells-stayed = { $slot } with another module: the same cells failed again
because-cells-went = { $slot } with another module: other cells failed
because-lanes-stayed = { $slot } with another module: the same byte lane failed again
because-lanes-went = { $slot } with another module: another byte lane failed

# The next step
step-setting = , with { $settings } settings
step-again-untouched = Run again, nothing touched
step-again = Run again{ $setting }
step-reseat-all = Take all modules out and put them back
step-reseat = Take { $modules } out and put it back
step-as-first = Everything back as it was at first{ $setting }
step-alone = { $module } alone in { $slot }{ $setting }
step-all-but = All but { $modules }{ $setting }
step-placed = { $module } in { $slot }
step-several = { $placed }{ $setting }
do-take-out-of = { $module } out of { $slot }
do-take = Take { $modules }. Keep it at hand.
do-move = Move { $module } from { $before } to { $slot }.
do-reseat = Take { $module } out of { $slot }, check its contacts, and press it back in.
do-put = Put { $module } into { $slot }.
do-notch = Notch to key, straight down, until both latches click shut.
do-simulated-settings = The simulation puts { $settings } settings in force.
do-stock = In the firmware's setup load the defaults: no memory profile, no timings or voltage by hand.
do-other-settings = In the firmware's setup put the { $settings } settings back in force, as they were.
do-simulated = The simulation moves the modules for you.
do-off-laptop = Switch off, unplug, take the battery out, hold the power button five seconds. Touch bare metal.
do-off-desktop = Switch off, unplug, hold the power button five seconds. Touch the bare case.
do-off = Switch off, unplug, on a laptop take the battery out; hold the power button five seconds. Touch bare metal.
differs-elsewhere = { $module } is in { $found } instead of { $wanted }
differs-missing = { $module } is missing in { $wanted }
differs-still = { $module } is still in { $found }
settings-stock = stock
settings-profile = profile

# The answer of a job
answer-nothing = Nothing is known.
answer-sure = { $part } ({ $band }). { $why }
answer-alike = { $part } ({ $band }), not proved: other causes would have shown the same in these runs. Test a known-good module in its place.
answer-unproved = { $part } ({ $band }), not proved: no run was possible without it. Test a known-good module in its place.
answer-one-of = One of these: { $all }. { $stop }
answer-budget = The limit of runs, hands-on time or hours for a job is reached.
answer-open = No further run with these parts would separate them.
why-passes = {" "}({ $passes } passes in the longest such run)
why-reseated = After reseating, the first arrangement ran clean{ $clean }.
why-profile =
    { $n ->
        [one] { $n } run
       *[other] { $n } runs
    } with the profile failed; at stock settings it ran clean{ $clean }.
why-explains = It explains the runs better than any module or slot does.
why-with-others =
    { $n ->
        [one] { $n } run
       *[other] { $n } runs
    } with it and others installed failed; with it alone, and without it, all were clean{ $clean }.
why-unfit =
    { $n ->
        [one] { $n } run
       *[other] { $n } runs
    } with it failed here; in another machine it ran clean.
why-runs =
    { $n ->
        [one] { $n } run
       *[other] { $n } runs
    }
why-starts = { $n } runs or starts
why-without = { $failed } with it failed; without it the rest ran clean{ $clean }.
why-pair = { $failed } with both installed failed; with one of them at most all were clean{ $clean }.
why-without-both = { $failed } with one of them failed; without both the rest ran clean{ $clean }.

# What to do at the end
act-replace = Replace it; see the order below.
act-replace-both = Replace both; see the order below.
act-try-elsewhere = Before scrapping it, test it in another PC. If it passes there, it is good but incompatible with this mainboard.
act-use-elsewhere = It ran clean elsewhere: use it there. First load the firmware's defaults and update the firmware: sometimes that is enough.
act-buy-listed = Buy a module from the mainboard's memory support list (QVL).
act-replace-alike = It is unfit for this machine: replace it, preferably with the same part number as the others.
act-firmware-first = First load the firmware's defaults and update the firmware: sometimes that cures it.
act-keep-one = Keep one of the two and use the other in another machine: each is good alone.
act-buy-alike = Buy the same part number as the one that stays, or a matched set.
act-clean-slot = Blow the slot out, check for bent or dull contacts, and test once more.
act-leave-slot = Leave it empty if another slot is free; otherwise replace the mainboard.
act-replace-and-leave = Replace the module, and leave the slot empty or replace the mainboard.
act-profile-off = Leave the profile off. If the owner needs its speed: update the firmware, then test the profile once more, overnight.
act-raise-voltage = Only then raise the memory voltage by one step, at most 0.05 V for DDR4 or DDR5. Go back to stock after any error.
act-buy-nothing = Buy nothing. Test overnight before the handover: a contact can come loose again.
act-see-to-processor = Load the firmware's defaults and update the firmware; reseat the processor and check its cooler.
act-inspect-socket = Take the processor out: look for bent or dirty contacts in its socket, and tighten the cooler evenly. Then test once more.
act-leave-channel = If it still fails, leave this channel empty or replace the mainboard.
act-lower-speed = In the firmware's setup choose the next lower memory speed, and prove it with all modules in.
act-fewer-modules = Or run with one module in each channel.
act-buy-matched = For all slots at this speed, buy one set that is sold for as many modules and is on the support list (QVL).
act-other-slots = Use the other slot of each channel: the mainboard's manual says which to fill first.
act-one-kit = Keep the modules of one kit. For more memory buy one larger kit.
act-modules-elsewhere = Then it is the mainboard or the processor: test the modules in another PC first.
act-look-beyond = Look beyond memory: power supply, heat, storage.
act-borrow-good = Borrow or order one known-good module of the same kind. Swap it in for each module in turn to settle it.
act-matched-set = Replace modules that pass alone and fail together with a matched set.
act-compare-elsewhere = Test the modules in another PC: if they pass there, it is this mainboard or processor.
act-check-files = Files may be damaged: back up, and check the system files after the repair.
act-prove = Prove the repair with all modules in: a survey (1 h), with computing load{ $time }. Then restore the boot order and remove the boot drive.
prove-clean = ; { $time } without an error show with 95 % confidence that it helped
prove-once = ; no arrangement failed more than once, so a clean run alone does not prove the repair
end-replace = replace it
end-elsewhere = good alone, not here: use it elsewhere
end-in-question = in question
end-keep = ran clean, stays
end-not-at-fault = not at fault, stays
end-untested = not cleared
job-not-whole = Records of this job are damaged, so a missing error proves nothing. Run the test again. Each run says what was lost.
beyond-updates = the system's updates
beyond-files = the system's own check and repair of its files
beyond-drivers = drivers of chipset, storage and graphics
beyond-firmware = the firmware: update, or its defaults
beyond-storage = storage: its own health report, cables
beyond-install = a fresh install, on another drive if there is one
beyond-memory = then memory again, overnight and under computing load
contra-serial = Two modules have the serial number { $serial }: after a restart nothing distinguishes them. Mark them and test one at a time.
contra-two-in-slot = Run { $run } has two modules in { $slot }; the first of them counts. Exclude the run if that is wrong.
contra-two-slots = Run { $run } has module { $module } in two slots; the first counts. Exclude the run if that is wrong.
contra-both = This arrangement both passed and failed: the fault is intermittent, or reseating cured it. Longer runs show more.

# Runs side by side
compare-machine = machine
compare-settings = settings
compare-firmware = firmware
compare-depth = depth
compare-tests = tests
compare-passes = full passes
compare-ran = ran
compare-tested = tested
compare-one-module = pass of one module
compare-result = result
compare-errors = errors
compare-slots = in slots
compare-no-slot = no such slot
compare-empty = empty
compare-module-errors =
    { $module }, { $n ->
        [one] { $n } error
       *[other] { $n } errors
    }
common-none = No failing cell is known to be the same in two of them.
common-some =
    { $n ->
        [one] { $n } cell
       *[other] { $n } cells
    } failed in more than one of them.
common-moved =
    { $n ->
        [one] { $n } cell
       *[other] { $n } cells
    } failed in more than one of them, { $moved } of these after the module had moved.

# Stop screens
stop-code = stop code { $code }
stop-code-means = stop code { $code }: { $meaning }
stop-memory-management = memory management is inconsistent
stop-bus = an error on the memory bus
stop-page-list = the page list is damaged
stop-address = an address that does not exist
stop-read-in = a page could not be read in: memory or storage
stop-hardware = the hardware reported an error that could not be corrected
stop-page-not-empty = a page that should be empty is not
stop-page-damaged = a page was damaged by the hardware
stop-pool = the pool of small memory blocks is damaged

# Why something cannot be run
lease-too-much = { $asked } of memory were asked for, but only { $reachable } can be taken. { $why } Ask for less
lease-abandoned = taking memory was given up before anything was tested
lease-does-not-start = the machine does not start: { $sign }
lease-out-of-reach = none of the memory in { $range } could be taken: the system holds it. Ask for a larger range, or none
recipe-unknown-test = there is no test named "{ $name }". The tests are: { $known }
recipe-no-test = no test is chosen, so nothing would be tested. Switch at least one on
recipe-no-pass = 0 passes would test nothing. Ask for at least 1
recipe-no-error = stopping after 0 errors would test nothing. Ask for at least 1
recipe-too-little = { $bytes } bytes are less than can be tested. Ask for at least 1 MiB
recipe-no-such-core = core { $core } cannot be used: this machine has the cores 0 to { $last }

# A run that nothing ended yet
standing-running = running
end-undecided = not decided yet

not-read-amount = { $text } is not an amount of memory. Write it as in 256M or 4G.
not-read-unit = { $text } has the unit { $unit }. Use K, M, G or T, as in 256M or 4G.
not-read-bounds = { $text } is outside what can be asked for. Give an amount above zero, as in 256M.
not-read-address = { $text } is not an address. Write it as in 0x100000000 or 4G.
not-read-duration = { $text } is not a duration. Write it as in 90s, 15min, 24h or 3d.
not-read-range = { $text } is not a range. Write it as in 4G..6G.
not-read-empty = { $text } holds nothing: its end must be above its start.
no-such-width = { $bits } is not a width of a load. Possible: 8, 16, 32, 64, 128, 256 and 512 bits.
not-used-fields = { $n ->
        [one] { $n } field
       *[other] { $n } fields
    } instead of address, expected and actual
not-used-same = expected and actual are the same
not-used-line = line { $line }: { $why }

logs-read-none = No log could be read.
logs-read-one = 1 log was read: { $log }.
logs-read = { $n ->
    [one] { $n } log was read.
   *[other] { $n } logs were read.
}
not-measured-cores = { $asked } cores were asked for, but there are { $here }.
not-measured-width = This processor has no loads of { $bits } bits.
not-measured-small = Working sets go from { $least } up, smaller before larger.
not-measured-large = Working sets of { $asked } were asked for, but { $largest } can be had for each of { $cores } cores.
not-measured-nothing = Nothing is left to measure. Name what to measure with --kind.
element-address-bits = one address bit at a time
element-of-copies = { $element } of the copies
element-opening-rows = opening rows
fact-value-right = checksums are right
fact-value-wrong = checksum wrong: { $sections }

# Stages of a job, and what is confirmed at its end
stage-complaint = complaint
stage-shown = shown
stage-not-shown = not shown
stage-found = found
stage-ordered = ordered
stage-fitted = fitted
stage-proved = proved
stage-ruled-out = ruled out
stage-suspects = other causes
stage-restored = restored
stage-handed-over = handed over
open-step-written-down = a rearrangement is written down: do it and start the machine
open-step-first-run = first run
open-step-find = find the part: Swap says the next arrangement
open-step-deeper = next deeper run
open-step-order = order what goes in place of the part, or say that nothing does
open-step-fit = install what was ordered
open-step-prove = prove the repair: run it clean as long as the evidence asks for
open-step-suspects = read what to look at next
open-step-restore = put the machine right: settings, files, boot order
open-step-hand-over = hand it over
tick-ordered = part ordered
tick-nothing-ordered = nothing ordered
tick-arrived = part arrived
tick-suspects-read = list read
tick-settings = settings set
tick-files = files checked
tick-backup = backup advised
tick-returned = borrowed modules returned
tick-boot-order = boot order restored
tick-drive-out = boot drive removed

lease-elsewhere = the machine is not here: nothing of its memory can be tested from here
proposed-shortest = Triage first: it takes the least time and shows most faults.
proposed-load = A survey first: the complaint comes under load, and triage runs without computing load.
proposed-time = A night first: the complaint comes seldom, at rest or when warm, and that takes time.
proposed-survey = Triage was clean; a survey adds further tests, computing load and time.
proposed-overnight = The survey was clean; a night leaves time for what comes seldom.
proposed-chance = If a module is bad, about { $count } of 10 such runs show it (estimate).
clean-for-load-made = If it is clean: no memory error in a run of { $time } with computing load; graphics load stays untested.
clean-for-load-missing = If it is clean: nothing said of the complaint yet, as this run makes no computing load.
clean-for-cold = If it is clean: little said of a complaint that comes when cold, unless the machine was off for hours before.
clean-for-warm = If it is clean: no memory error in a run of { $time }, which warms it up.
clean-for-some-days = If it is clean: { $time } say little of a complaint that comes on some days only.
clean-for-idle = If it is clean: no memory error in a run of { $time }, which is at rest only in part.
clean-for-always = If it is clean: another cause than memory becomes more likely, as the complaint is always there.
do-off-again = Switch off, unplug, battery out, touch bare metal.
do-off-again-desktop = Switch off, unplug, touch the bare case.
