
chrome-simulated = simulated
chrome-virtual-machine = virtual machine
chrome-ranges-trusted = virtual machine, slots by its firmware (test)
chrome-run-begins = a run begins
chrome-run = run: { $outcome } · { $percent } %
chrome-keys = keys

key-watch-measuring = watch the measurement
key-watch-run = watch the run
key-show-keys = show keys
key-list-actions = list actions
key-search-actions = search actions
key-switch-language = switch to { $language }
key-redraw = redraw the screen
key-text-size = larger or smaller text
key-leave = leave
key-go-on = go on
key-pause = pause
key-space = Space
key-stop-run = stop the run
key-next-test = next test
key-add-pass = add a pass

planned-run = The planned run
first-look = A first look at all memory
starts-automatically = { $next } starts automatically in { $seconds } s; any key stops that.
results-lost = Results are lost when the machine is switched off: { $why }.
results-doubtful = The file system for results is damaged ({ $doubt }): copy its records off, and make the drive anew.
more-of-the-start-written = { $more } more, in starts.txt on the drive.
more-of-the-start = { $more } more.
no-run-yet = no run yet
enlarge = enlarge to { $width }x{ $height }; q leaves

keys-in = Keys in { $name }
terms-explained = terms explained
any-other-key-closes = any other key closes
actions = Actions
no-action-found = Nothing has this in its name. Esc closes.
actions-keys = ↑↓ choose   Enter do it   type to narrow down   Esc close

stop-after = Stop after { $ran }; it can be continued later
keep-running = Keep it running
stop-this-run = Stop this run?
no-run-in-progress = No run is in progress.
run-in-progress = A run is in progress.
leaving-stops = Leaving stops it. What it found so far is recorded and stays in the logs.
stop-and-leave = stop and leave
stay = stay
leave-unrecorded = NOT RECORDED: { $why }. What was found is lost when the machine goes off: write it down or take a picture of the screen first. What next?
leave-recorded = Everything is written. What next? Afterwards take the drive out, and set the boot order back in the firmware if it was changed.
leave-recorded-in = Everything is written. The report is on the drive, in revisum/reports/{ $job }. What next? Afterwards take the drive out, and set the boot order back in the firmware if it was changed.
nothing-to-leave = There is nothing to leave.
broke-off-question = Run { $run } has no end. { $sentence } What happened? The answer counts as evidence.
no-run-broke-off = No run broke off.

# booted.rs
not-recorded-why = NOT RECORDED: { $why }
not-recorded = NOT RECORDED
recorded-on = recorded on { $place }
recorded = recorded
booted-restart = restart the machine
booted-off = switch the machine off
booted-rest = restart, and test the memory that this start could not reach
booted-rest-adds = test the other { $bytes } ({ $percent } %): the machine starts once more for that

choice-keys = ↑↓ choose   Enter do it   Esc close

glossary-term = term
glossary-meaning = meaning
glossary-keys = ↑↓ choose   any other key closes

any-key-closes = Any key closes this.

any-other-key = any other key

# event_loop.rs
size-unknown = the size of the terminal is unknown
no-thread = no thread can be had: the number of processes of this user is limited too much (ulimit -u)
no-signals = signals cannot be listened to

big-error = ERROR
big-errors = ERRORS
million = million
billion = billion
billion-short = bn
trillion = trillion
trillion-short = tn
quadrillion = quadrillion
quadrillion-short = qd
quintillion = quintillion
quintillion-short = qn
and-more = {" "}and { $more } more
in-slots = in { $slots }{ $more }
across-so-far = { $ran } so far, { $times }

errors-over-one = errors over { $time }   { $most } °C
errors-over-range = errors over { $time }   { $least } to { $most } °C, ^ hottest
errors-over-none = errors over { $time }   no temperature sensor

strip-unknown = { $bytes } seen. Slots and modules are unknown: no firmware tables.
strip-more = { $first } to { $last } of { $all } slots in use; ↑ ↓ shows others
strip-channel = channel { $channel }
strip-empty = empty
strip-outside = outside
strip-from = ← { $id } from { $from }
strip-out = out
strip-removed = removed:{" "}
strip-suspect = suspect, { $band }
strip-not-tested = not tested in this arrangement
strip-earlier = , earlier run
errors =
    { $n ->
        [one] { $n } error
       *[other] { $n } errors
    }
strip-errors-here-or = errors here or in another slot
strip-hardware = hardware errors
strip-none-here = errors seen, none in this slot
strip-corrected = { $n } corrected
strip-corrected-elsewhere = corrected errors elsewhere
strip-corrected-unknown = corrected errors, slot unknown

map-module =
    { $slot }: { $ranks ->
        [one] { $ranks } rank
       *[other] { $ranks } ranks
    } of { $banks ->
        [one] { $banks } bank
       *[other] { $banks } banks
    }, { $rows ->
        [one] { $rows } row
       *[other] { $rows } rows
    } each
map-bank = { $slot }: rank { $rank }, bank { $bank }
map-around = { $slot }: rank { $rank }, bank { $bank }, around row { $row } column { $column }
map-rank-bank = rank { $rank } bank { $bank }
map-bank-of = bank { $bank }
map-row-of = row { $row }
map-row = row
map-column = column

moves-now = now
moves-then = then

ribbon-held = { $held } of { $fitted } held ({ $percent } %)
ribbon-held-unknown = { $held } held, installed memory unknown
ribbon-no-addresses = {"   "}addresses unknown
ribbon-with-errors =
    { $reached }{ $addresses }   { $places ->
        [one] { $places } place
       *[other] { $places } places
    } with errors

big-self-check = SELF-CHECK FAILED
big-void = VOID
big-record-damaged = RECORD DAMAGED
big-damaged = DAMAGED
big-hardware = HARDWARE ERRORS
big-computed = COMPUTED WRONG
big-wrong = WRONG
big-corrected = CORRECTED ERRORS
big-ecc = ECC ERRORS
big-clean = CLEAN
big-clean-part = CLEAN IN PART
big-part = PART CLEAN
big-clean-so-far = CLEAN SO FAR
big-so-far = TESTING
big-broken-off = BROKEN OFF
big-not-finished = NOT FINISHED
big-unfinished = UNFINISHED
of-passes = {" "}of { $passes }
pass-of = pass { $pass }{ $of }
test-of = test { $at } of { $tests }, { $title }, { $share } %
paused-after = paused after { $elapsed }
about-left = about { $left } left, ends { $end }
left-ends = { $left } left, ends { $end }
ends = ends { $end }
so-far = { $elapsed } so far
took = took { $took }
pass-number = pass { $pass }
tests-from-to = test  { $from } to { $to } of { $tests }
test = test
temperature-celsius = temperature (°C)
low-to-high = { $low } to { $high }
before = before
test-stopped = stopped
test-skipped = skipped
panel-now = now
each-covers-all = , each covers all memory
panel-cores = cores
panel-rate = rate
panel-heat = heat
panel-clock-range = { $lowest } to { $highest } GHz
panel-clock = clock
check-failed = failed { $missed } times: result void
check-not-yet = not yet
check-passed = passed, { $caught } of { $caught }
self-check = self-check
excluded-bytes = { $bytes } excluded (page moved or bad)
panel-moved = moved
panel-wrong = wrong
run-reads-back = The record reads back differently from what was counted: this memory or the drive may be bad. The worse of both is shown.
panel-counts = counts
panel-counts-differ = do not agree
numbers =
    { $n ->
        [one] { $n } number
       *[other] { $n } numbers
    }
ecc-counts = { $corrected } corrected, { $uncorrected } not
slot-unknown = slot unknown
or = {" "}or{" "}
dq-reads = DQ { $lane } reads { $reads } for { $expected }
lines-of-lane = several data lines of byte lane { $lane }
lines-at-once = { $several } data lines at once
col-samples = samples
col-where = where
col-what = what
col-re-read = re-read
col-tests = tests
unknown-address = an unknown address
first-sample = { $address }  wrote { $expected }  read { $actual }

# lib.rs
drive-takes-nothing = the drive takes nothing ({ $cause })

does-not-start-six = The machine does not start: { $sign }. 6 moves modules.
cannot-be-run = This cannot be run: { $error }.

step-written-down = This step is written down. Switch the machine off and do it. When Revisum starts again, it compares what is installed with this step and continues.

facts-findings = findings
facts-empty = { $id }, empty
facts-machine = machine
facts-temperature = temperature
facts-counts = { $corrected } corrected, { $uncorrected } uncorrected
facts-counted = errors counted
facts-logged = error logged
unknown = unknown
facts-memory = memory, { $bytes } { $whole }
first-to-last = { $first } to { $last }

more-i-shows = { $more } more: i shows all.
board-module = module
board-soldered = soldered
board-socketed = { $form }, socketed
board-channel = , channel { $channel }
board-maker = maker
board-part = part
board-serial = serial
board-label = label
board-runs-at = runs at
board-at = {" "}at{" "}
board-spd-timings = SPD timings
board-profiles = profiles
board-made = made
board-type = type
board-earlier = earlier runs
ranks =
    { $n ->
        [one] { $n } rank
       *[other] { $n } ranks
    }
board-empty-slot = empty slot
board-slots-unknown = Slots are unknown here, so errors cannot be placed. Testing works all the same: take modules out one at a time by hand, and run again after each change.
board-mainboard = mainboard
board-elsewhere = ; in { $machine }: { $end }
board-none = none
board-runs-clean =
    { $runs ->
        [one] { $runs } run
       *[other] { $runs } runs
    }, none with errors in it
board-other-slots = , in other slots too
board-runs-failed =
    { $runs ->
        [one] { $runs } run
       *[other] { $runs } runs
    }, errors in { $failed }{ $elsewhere }
board-memory = memory
board-tested = { $tested } of { $installed } tested in this job ({ $percent } %)
board-computer = computer
board-firmware = firmware
board-processor = processor
cores =
    { $n ->
        [one] { $n } core
       *[other] { $n } cores
    }
board-controller = controller
board-max-memory = max memory
board-settings = settings
board-temperature = temperature
board-hidden = Physical addresses are hidden from this user: errors will have no address. Run as root to see them.
does-not-start = The machine does not start: { $sign }.
the-owner = the owner
jobs-open-step = open step
board-next-errors = Errors were found in this job. 6 shows the suspect and the next step.
board-next-nothing = Nothing was run yet. Enter tests all memory; 3 changes the recipe.
board-next-clean = No errors in this job so far. 3 has longer runs; 8 shows the runs.
next = next
lines-of = { $first } to { $shown } of { $lines } lines

mark-red = red dot
mark-green = green dot
mark-blue = blue dot
mark-yellow = yellow dot
mark-white = white dot
mark-off = take the mark off
mark-no-slot = No slot is known here, so there is no module to mark.
mark-empty = { $id } is empty: there is nothing to mark.
mark-module-in = { $module } in { $id }
mark-title = Mark { $name }
mark-what = What is on it, to know it again on the table:{" "}
mark-keys = ↑↓ choose, or type another   Enter keep it   Esc leave it as it is

board-purpose = board: what is installed
key-run = run { $chosen }
key-further-down = further down
key-back-board = back to board
key-select-slot = select slot
key-mark-module = mark the module
key-all-facts = all facts
key-every-run = list module's runs
board-slot-empty = This slot is empty: there is no module whose runs could be shown.
board-no-serial = This module reports no serial number, so its runs cannot be distinguished from those of others.

intake-owner = owner
intake-says = says
intake-changed = changed
intake-tried = tried
intake-words = words
intake-w-to-add = w to add
intake-slow = slow
intake-speed = 7 measures whether memory is as fast as expected.

intake-purpose = intake: what is known of the machine
key-select-row = select row
key-toggle = toggle
key-add-notes = add notes
intake-anything-else = Anything else the owner said
keep-cancel = Enter keep   Esc cancel

col-machine = machine
col-job = job
col-result = result
col-purpose = purpose
jobs-none = No job on record.
jobs-nothing-noted = nothing noted
jobs-closed = closed after { $runs ->
        [one] { $runs } run
       *[other] { $runs } runs
    }
jobs-open = open, { $runs ->
        [one] { $runs } run
       *[other] { $runs } runs
    }
jobs-stage = { $stage }, { $runs ->
        [one] { $runs } run
       *[other] { $runs } runs
    }
jobs-not-run = not run yet
jobs-on-bench = { $words }, on the bench

drives-title = Make a boot drive
drives-from = from { $image }
drives-no-image = There is no image revisum-boot.img next to the records or the program: cargo xtask image makes it.
drives-none = No removable drive found. Plug one in and press d; 512 MiB are enough.
drives-unknown-content = unknown content
drives-on-it = on it: { $contents }
drives-not-offered = not offered: { $why }
drives-results-stay = Results on an existing boot drive stay.
drives-erased = Everything on the drive will be erased.
drives-done = { $mark } { $drive }: { $bytes } written and read back in { $time }, { $rate } a second. It can be taken out.
drives-checking = checking the image
drives-writing = writing
drives-reading-back = reading back

drives-line = { $path }   { $bytes }   on it: { $contents }
drives-results-stay-if = Its results stay if it is already a boot drive.
drives-all-erased = Everything on { $drive } will be erased
drives-type-name = Type its name to continue:{" "}
drives-keys = Enter continue   Esc cancel
drives-name-wrong = The name does not match { $drive }. Nothing was written.

jobs-purpose = jobs: every machine that came in
key-open-machine = open { $machine }
key-open-this = open this machine
key-select-job = select job
key-make-drive = make boot drive
key-new-job = start new job
drives-being-written = A drive is being written. x cancels; its old content is gone then and it does not start.
key-continue-meanwhile = continue meanwhile
key-give-up = give up
key-end-first = show running work
key-write-to = write it to { $drive }
key-search-drives = search drives again
key-select-drive = select drive
key-toggle-results = toggle keeping results
key-back-jobs = back to jobs
jobs-run-in-progress = A run is in progress. Stop it before you open another job.
jobs-still-open = The current job is still open. Close it first with c under 6. Its results stay on record.
jobs-already-new = The current job is already new: nothing was run in it.

locate-no-errors = No errors so far. When there are some, this says where they are and what failed.
locate-nothing-run = Nothing was run in this job yet. Enter begins; when errors come, this says where they are.
locate-latest-clean = The latest run of this job found no errors, so there is nothing to locate.
locate-likely = likely
locate-then = , then{" "}
locate-fits = fits
locate-again = again
locate-outside = outside
key-use-learned = use the learned map
locate-learned = learned
locate-learned-fits = A map of slots was learned on this mainboard with the same arrangement; u goes by it.
locate-outside-map =
    { $n ->
        [one] { $n } word
       *[other] { $n } words
    } outside of the map
locate-limit = limit
locate-lanes = lanes

locate-cell = rank { $rank } bank { $bank } row { $row } column { $column }
locate-many-lines = { $many } data lines

locate-per-line = failing words per data line (DQ), peak { $most ->
        [one] { $most } word
       *[other] { $most } words
    }
locate-chips-unknown = chips unknown: the module does not report their width
locate-chip = chip { $chip }

locate-find = find{"  "}
locate-find-keys = _   Enter keeps, Esc shows all
locate-find-kept = {"   "}/ changes it, Esc shows all
col-slot = slot
col-words = words
locate-no-group = No group has this in its line.
col-address = address
col-cell = cell
col-behaviour = behaviour
locate-no-word = No word has this in its line.
locate-cell-short = r{ $rank } bank { $bank } row { $row } col { $column }
locate-no-map = no address map
locate-failed = failed { $seen }
locate-once = once: { $behaviour }
locate-times = { $times } times: { $behaviour }

locate-purpose = locate: where errors are, and what failed
key-what-next = show next step
key-select-word = select word
key-select-group = select group
key-zoom-in = zoom in
key-zoom-out = zoom out
key-zoom = zoom
key-find = find
key-repeat-failed = repeat what failed
key-continue-run = continue the run
key-exclude-ranges = exclude bad ranges
key-step-back = one step back
locate-nothing-to-exclude = No errors were found in this job, so there is nothing to exclude.
locate-no-workaround = There is no workaround: { $refusal }.
locate-costs = It costs { $costs }. { $warning }
locate-linux-kernel = Linux, kernel parameters: { $parameters }
locate-linux-grub = Linux, GRUB settings: { $settings }
locate-windows = Windows, as administrator: { $commands }
and = {" "}and{" "}
locate-prints = revisum locate last prints these for copying.

no-picture-flood = No picture of the module: too many errors to keep one by one, and those that were kept are no fair sample.
no-picture-map = No picture of the module: without an address map, ranks, banks, rows and columns are unknown.

import-no-folder = No folder was typed: nothing was imported.
import-title = Import records from another drive or folder
import-no-drive = No mounted drive has records. Mount one and press i again, or type a folder.
import-one = This drive has records:
import-several = { $several } drives have records; ↑↓ selects:
import-copied = Runs and jobs are copied. What is here already is kept, and the drive is not changed.
import-keys = Enter import   Esc cancel

logs-compared = compared

col-started = started
col-depth = depth
col-errors = errors
col-corrected = corrected
col-arrangement = arrangement
logs-clock-wrong = {" "}(clock was wrong)
logs-log-of = log of{" "}
logs-state-after = state after { $at } of { $length }
logs-of = { $runs } of { $count }
logs-found = / { $value }{ $cursor }   { $all } found
logs-far = { $at } of { $of }
logs-records = records
logs-importing = Importing { $far } from { $now }
logs-nothing-found = No run has this text in machine, modules, tests, result or id.
logs-none-yet = No run was recorded yet.
logs-recorded = Every run is recorded automatically. 4 starts one.
logs-id = id { $id }
logs-unreadable = { $count } records could not be read; the first: { $first }
logs-kept-elsewhere = in the records of { $name }
logs-aside = Runs of other shops are missing: `revisum ledger show` says why.

col-mainboard = mainboard
logs-history-of = history of{" "}
logs-with-errors =
    { $runs ->
        [one] { $runs } run
       *[other] { $runs } runs
    }, with errors { $failed }
logs-open = open
logs-closed = closed
logs-job = job { $job } { $state }
logs-no-run-of = No run with this module on record.

logs-purpose = logs: earlier runs
key-back-list = back to list
key-through-time = step through time
key-back-module = back to module
key-select-run = select run
key-select-entry = select entry
logs-imported = Imported: { $done }.
logs-not-imported = The records could not be imported: { $why }.
key-system-logs = system logs
key-select-compare = select to compare
key-import = import records
key-all-runs = all runs
key-open-run = open the run
key-keep-evidence = keep as evidence
key-back = back
key-compare-runs = compare { $chosen } runs
key-open = open
logs-most-compared = At most { $most } runs can be compared. Space on a selected one deselects it.
logs-being-imported = Records are being imported from { $now }. A message follows when it is done.

col-last = last
col-count = count
system-title = system logs about memory
system-reading = The logs are being read. A whole disk takes a while.
system-kept = {"   "}kept in the job
system-more = {" "}{ $more } more.
system-none = No entry is about memory.
system-proves-little = That proves little: many systems log nothing of it, and one that stopped could not. Disks that are mounted are looked through too; revisum system-log PATH reads any other.

recipe-more = more
recipe-one-pass = one pass about { $pass }
recipe-minutes = minutes
recipe-hour = an hour
recipe-eight-hours = eight hours
recipe-moment = a moment
recipe-sweeps =
    { $n ->
        [one] { $n } sweep
       *[other] { $n } sweeps
    }
recipe-cannot-say = Cannot say: { $limits }
recipe-no-model = detects no model completely
recipe-apart = ; two cells: at least { $from } apart, swept by one core
recipe-detects = detects every { $models }{ $apart }
about = about { $time }
recipe-measuring = being measured, a second please
recipe-not-known = not known: nothing could be measured
recipe-then-stable = about { $time }, then until the temperature is stable for ten minutes
recipe-less-than-pass = less than one pass
recipe-about-passes = about { $passes } passes
recipe-memory = memory
recipe-pass = one pass
recipe-in-all = in all
recipe-before = before
recipe-to-take = about { $time } to take the memory
recipe-leaves-rest = The recipe leaves the rest out.
recipe-not-tested = not tested
recipe-no-time = no time for

recipe-purpose = recipe: what to run
recipe-as-it-comes = reset to { $depth }
key-change-value = change value
key-write-file = save to file
key-open-recipe = open recipe file
recipe-which = Which recipe?
recipe-none-written = No recipe was written yet. w writes this one.

recipe-start = start
recipe-depth = depth
recipe-tests = tests
recipe-end = end
recipe-how = how
recipe-else = else
recipe-top = the top
recipe-passes = passes
recipe-as-many = as many as fit
recipe-time = time
recipe-any = any
recipe-until = until
recipe-any-time = any time
recipe-stop = stop
recipe-not-for-errors = not for errors
recipe-amount = amount
recipe-all-there-is = all there is
recipe-from = from
recipe-to = to
recipe-each-core = each core
recipe-cores = cores
recipe-all-cores = all { $cores }
recipe-first-cores = the first { $many }
recipe-caches = caches
recipe-waits = waits
recipe-as-tests-say = as the tests say
recipe-warmth = warmth
recipe-until-stable = until it is stable
recipe-as-comes = no soak
recipe-sound = sound
recipe-first-and-end = first error and end
recipe-off = off
recipe-at-first = at the first error
recipe-at-errors = at { $errors } errors
recipe-share = covers its share
recipe-all-memory = covers all memory
recipe-per-test = as each test needs
recipe-flush = flush after every sweep
key-choose = choose { $depth }
key-leave-out = leave out test
key-take-in = include test
key-next-value = the next value
recipe-help-start = Begins the run as it is chosen below.
recipe-help-passes = How often all tests are run through; left of 1 as many passes as fit into the time.
recipe-help-time = Ends after this time, in the middle of a pass if need be; what had finished counts.
recipe-help-until = Ends at this time of day by this machine's clock. A wrong clock makes it end at a wrong time.
recipe-help-stop = Ends after this many errors. A swap plan needs only the first one.
recipe-help-memory = How much memory is taken and tested. All there is leaves nothing out that can be reached.
recipe-help-range = Only memory between these addresses, where addresses are known.
recipe-help-divide = Cores divide the memory and work at the same time. This is fastest.
recipe-help-each = Every core covers all memory, one after the other. This shows a bad core.
recipe-help-divide-nodes = Cores divide the memory and work at the same time. This is fastest, but tests most memory from one of the { $nodes } processor nodes only.
recipe-help-each-nodes = Every core covers all memory, one after the other: memory of all { $nodes } nodes is tested from near and from far.
recipe-help-cores = How many of the usable cores work.
recipe-help-per-test = As each test needs: what a sweep leaves in the caches is flushed where the next one would find it.
recipe-help-flush = Caches are flushed after every sweep. This is slower.
recipe-help-waits = How long the tests that wait leave the memory alone.
recipe-help-warmth = Goes on after its passes until the temperature has stood still for ten minutes, and says whether warmth matters. Without a sensor the passes count alone.
recipe-help-sound = The terminal's bell at the first error and at the end of a run.

report-being-made = The report is being put together.
report-below = { $below } more lines below

report-purpose = report: what goes to the counter
key-write-report = write report files
key-owner-language = owner's language

run-enter = Enter { $words }{"   "}
run-esc-full = { $next }Esc the run in full
run-taking = Taking memory from the system: { $taken } of { $of }
run-not-made = The run could not be made
run-nothing-tested = Nothing was tested. Change the recipe with 3, or try again with Enter.
run-none = No run since the program started.
run-choose = choose what to run{"   "}
run-earlier = earlier runs

run-purpose = run
key-across = read from afar
key-in-full = show run fully
key-select-test = select test
key-go-to-test = go to test

speed-not-yet = Not measured yet in this job.
speed-about = Enter times loads, stores and copies over working sets of every size, and says whether memory is as fast as this arrangement should be. A wrong slot, a lost channel or a disabled profile shows at once.
speed-taking = taking memory
speed-repeat = repeat { $repeat } of { $repeats }   { $kind } over { $bytes }, { $cores }
speed-said-later = The meaning follows when every loop was timed.
speed-other-arrangement = Measured in another arrangement or with other settings: measure again for this one.
speed-compared = Compared with { $machine }, { $when }{ $same }; each percentage is this measurement as a part of that one.
speed-same = , the same arrangement
speed-differs = , another arrangement or other settings
speed-share-of = { $share } % of { $most }
speed-reading = reading{"  "}
speed-bandwidth = bandwidth
speed-none-larger = no working set was larger than the caches yet
speed-channel = channel
speed-channels = channels
speed-peak = { $peak }, { $count } { $channels } at { $speed } MT/s
speed-theoretical = theoretical peak
speed-latency = latency
speed-lowest = lowest possible
speed-timings-only = { $ns } ns (DRAM timings only)
speed-compared-to = {"  "}compared
speed-non-temporal = non-temporal write
speed-random-load = random load
speed-caches = caches
speed-large-pages = large pages
speed-of-measured = { $share } % of the measured memory
speed-times-each = { $repeats } times each
speed-stopped-early = stopped early
speed-measured = measured
chart-bandwidth = bandwidth, { $cores }
chart-one-core = bandwidth, one core
chart-waits = a load that waits for the one before, in random order
chart-width = bandwidth by the width of each access, one core
chart-distance = a load by the distance to the next one, one core
chart-nothing = nothing to draw yet
chart-non-temporal = non-temporal
chart-read-compared = read, compared
chart-working-set = working set of each core
chart-compared = compared
chart-memory = memory
chart-cache = cache
chart-bits = bits of one access
chart-first-cache = first cache
chart-distance-between = distance between loads

speed-purpose = speed: how fast memory is
key-select-chart = select chart
key-stop-at-once = stop at once
key-measure-again = measure again
key-measure = measure
key-compare = compare
key-measure-all = measure all memory

removed = removed

swap-closed = This job is closed: { $answer }
swap-because = because
swap-if-errors = if errors
swap-if-clean = if clean
swap-settings = settings in force: { $now }; the firmware offers { $all }
swap-dark = dark
swap-as-installed = test the modules as installed now (not the suggested step)
swap-automatically = {" "}It starts automatically in { $seconds } s; any key stops that.
swap-as-planned = Installed as planned: { $passes ->
        [one] { $passes } pass
       *[other] { $passes } passes
    } to run.{ $soon }
swap-not-as-planned = Not installed as planned: { $differences }. A run as installed counts too.
swap-clean = No run of this job found an error, so there is no part to look for. A longer run, with computing load, finds rarer faults: 3 chooses the depth. When memory stays clean, look at, in this order:
swap-found = FOUND
swap-open = OPEN
swap-order = order
swap-no-tables = The firmware's tables cannot be read, so modules are not known here. By hand: switch off and unplug, take out all modules but one, run, and do the same with each of the others. Write down which one was in; the log of each run is kept under 8.
swap-nothing-run = Nothing was run in this job yet. Test all modules together first.
swap-proof = PROOF
swap-next = NEXT
swap-cost = hands-on { $minutes } min; test { $machine }, stops at the first error
swap-suspicion = suspicion

swap-by-slot = results by slot
swap-known-good = known-good
col-run = run
col-duration = duration
col-effect = effect
swap-hidden = { $hidden } earlier runs are not shown: u lists all
swap-up = up
swap-down = down
swap-excluded-because = { $mark } excluded { $reason }
swap-clean-passes =
    { $mark } clean, { $passes ->
        [one] { $passes } pass
       *[other] { $passes } passes
    }

known-day = a day
known-week = a week
known-month = a month
known-clean = ran clean
known-failed = failed
known-elsewhere = { $name } { $how } in another machine{ $mark }
known-good = { $name } is known-good{ $mark }
known-noted = {"   "}noted; Enter again removes it
known-refuses = This mainboard does not start with modules only in { $slots }{ $mark }
known-returned = returned within
known-not-returned = did not return for
known-complaint = In this arrangement, the complaint { $how } { $time } of use
known-borrow = Borrow { $module } from { $machine }, known-good

steps-line = { $step }   hands-on { $hands } min, test { $machine }
steps-other = Other steps, the most informative for its minutes first. Modules moved by hand count too.
steps-none = There is no other step.
exclude-title = Exclude a run: it no longer counts as evidence. Enter again includes it.
exclude-none = No run was made in this job yet, so there is none to exclude.
module-in-slot = { $id } in { $slot }
exclude-excluded = {"   "}excluded
exclude-line = run { $at }   { $headline }   { $names }{ $excluded }
known-title = What else is known? All of it is optional and counts as evidence.
known-no-module = No module is known in this job.

swap-purpose = swap: which part is it
key-remove-insert = remove, insert
key-select-module = select removed module
key-other-settings = other settings
key-other-steps = other steps
key-exclude-run = exclude a run
key-add-known = add known facts
key-reopen-job = reopen the job
key-close-job = close the job
key-start-planned = start planned run
key-test-arrangement = test this arrangement
key-do-step = do step, run
key-just-run = run
key-write-step = write step down
close-not-named = the part was not named.
close-damaged = the record is damaged: its result is unknown.
close-no-error = no run found an error.
swap-stop-settings = A run is in progress. Stop it before you change settings.
swap-stop-move = A run is in progress. Stop it before you move modules.
swap-no-slots = No slots are known on this machine: there is nothing to move.
swap-soldered = The memory in { $id } is soldered: it cannot be removed.
swap-none-removed = No module is removed. Take one out of a slot first.

chosen-changed = { $depth }, changed

doing-report = putting the report together
doing-write-report = writing the report
doing-search = looking through the records
doing-read = reading records
doing-locate = working out where errors are
doing-open-job = opening the job
doing-drives = looking for drives
doing-measurements = looking for measurements
doing-at-work = at work

# terminal.rs
needs-terminal = the full screen needs a terminal; `revisum check` works without one

drives-cannot-list = The drives cannot be listed: { $error }.
drives-image-gone = The image is not there any more.
drives-nothing-written = Nothing was written to { $drive }


late-drive = the new drive
drive-refuses-run = the drive does not take the last run's records
drive-refuses-job = the drive does not take the job's records
speed-being-measured = Speed is being measured. Wait for the end, or stop it: x under 7.

recipe-written = Written to { $path }. o opens the recipes of this folder, and revisum check --recipe runs one.

report-written = Written to { $folder }: { $files }.

speed-run-in-progress = A run is in progress: each would slow the other. Wait for its end, or stop it.
speed-not-measured = Speed could not be measured: { $why }
speed-stopped = Stopped before every loop was timed once: nothing is kept.
speed-nothing-compare = Nothing to compare with: neither this machine nor one like it was measured before.

# room/view.rs: a word each, 48 letters in all
view-jobs = Jobs
view-intake = Intake
view-board = Board
view-recipe = Recipe
view-run = Run
view-locate = Locate
view-swap = Swap
view-speed = Speed
view-logs = Logs
view-report = Report

hands-settings-stay = The settings stay as they are: { $reason }.
hands-modules-stay = The modules stay where they are: { $reason }.
hands-not-borrowed = It cannot be borrowed: { $reason }.

# The course of a job
key-replacement = settle replacement
key-part-arrived = part arrived
key-list-read = list was read
key-confirm = { $what }
key-hand-over = hand over, report
key-show-report = show report
order-title = What goes in place of { $modules }?
order-and = {" "}and{" "}
order-ordered = Ordered: it will arrive later
order-here = It is here: install it now
order-nothing = Nothing: the computer leaves without it
course-now = now
course-await = Install the new module when it arrives; Revisum recognises it.
course-confirm = before the computer goes
course-suspects = No memory error was reproduced with the tests that this complaint asks for. Look next at:
close-unproved = The repair was not proved.
key-add-note = add note
note-title = Note
intake-note = note
key-how-to-install = how to install
course-install = Switch off, unplug, put the new module in place of the old one, and start again: Revisum recognises it and proves the repair.
key-install-prove = install, prove
key-prove = prove: { $depth }

# declared slots, machines that do not start
key-no-start = does it start?
key-declare-slots = declare slots
key-declare-module = declare module
key-fitted-as-planned = moved as planned
key-other-machine = machine not here
dark-title = With the modules as they are installed now, or as the written step says: does the machine start?
dark-empty = No module is installed, so a machine that does not start says nothing.
dark-nothing = no: it stays dark, or signals nothing
dark-memory = no: sounds, lights or codes that its manual gives for memory
dark-processor = no: sounds, lights or codes that its manual gives for the processor
dark-graphics = no: sounds, lights or codes that its manual gives for graphics
dark-starts = yes: it starts
declare-slots = Nothing reports the slots of this machine. How many memory slots has the mainboard?
declare-count = { $count }: { $names }
declare-names = other names, as the mainboard prints them
declare-names-title = Names of all slots, separated by commas:
declare-module = What the label of the module in { $slot } says:
declare-example = Size, then serial number or what is written on it: 8 GB 12AB34CD, or 8 GB red dot.
declare-empty = An empty line: there is no module in this slot.
declare-no-size = There is no size in "{ $typed }". Write it as on the label, for example 8 GB 12AB34CD.
declare-numbered = module { $number }
strip-declared = declared
runs-not-of-saved = Saved facts: nothing of this machine is here, so nothing can be run on it. Run it on the machine itself, from the boot drive.
saved-facts = saved facts, nothing is kept
saved-facts-short = saved facts
board-next-saved = Read what was found: Enter shows every fact with its sources, 8 what its logs say. Nothing can be run here.
board-memory-fitted = { $bytes } installed
runs-elsewhere = This machine is not here: nothing can be run on it from here. Start it from the boot drive; what it does without starting is entered with p.
elsewhere-title = Name of the machine that is not here:
elsewhere-words = Its job is kept here: what it does, which modules were moved, and whether it starts. Runs are made on the machine itself, from the boot drive.
swap-started = started
swap-no-start = no start
note-plus = Begin with + to show it in the report for the owner.
intake-answered = entered
intake-was-seen = { $answer } (seen here)
intake-was-said = { $answer } (owner)
key-seen-or-said = seen here / owner said
key-put-back = put all back
course-put-back = Put all modules back as they came in: what is wrong is not mended by what is installed, or it is not known.
stage-narrowed = narrowed down

# welcome.rs
welcome-word = STARTING
welcome-memory = { $size } of memory
welcome-drivers = loading drivers
welcome-drive = looking for the drive with the results
welcome-drive-for = looking for the drive with the results: { $seconds } s
welcome-then = then the board, and a first look at the memory
welcome-keys = Keys are taken already. They act as soon as the drive is found.
welcome-pressed = Taken, and done as soon as the drive is found: { $keys }

# wall
key-wall = all machines of the shop: the wall
wall-unnamed = a machine
wall-large-ready = READY
wall-no-run = no run yet
wall-silent = SILENT for { $time }: look at it, its screen and its cable
wall-next = Next: { $step }
wall-waits = It waits for somebody
wall-heard = heard { $time } ago
wall-ends = ends { $time }
wall-full = NOT COPIED HERE: this computer's disk is full
wall-not-kept = NOT COPIED HERE: the records cannot be written
wall-title = { $shop }   { $address }
wall-counts = { $all ->
    [one] 1 machine
   *[other] { $all } machines
} · { $hands ->
    [0] none waits for you
    [one] 1 waits for you
   *[other] { $hands } wait for you
}{ $silent ->
    [0] { "" }
    [one] { "" } · 1 is silent
   *[other] { "" } · { $silent } are silent
}
wall-key-open = open { $machine }
wall-key-select = select
wall-key-sound-off = sound off
wall-key-sound-on = sound on
wall-key-leave = leave
wall-nobody = No machine is linked to this computer yet.
wall-how-drive = Machines that start from a drive that was made here with “revisum drive write --shop” link themselves as soon as they are on and their network cable is plugged in.
wall-how-address = They find this computer on the local network. Where they cannot, make the drive with “--counter” and one of these addresses:
wall-col-number = no.
wall-col-slots = slots
wall-col-ends = ends
wall-col-next = next
wall-picture-comes = Its screen is on its way.
wall-bar = { $machine }: keys go to this machine.   Ctrl-W back to the wall
wall-bar-silent = { $machine }   { $words }   Ctrl-W back to the wall
wall-shop = Revisum shop
wall-not-opened = this computer cannot listen on { $address }
wall-unannounced = NOT FOUND ON THE NETWORK without its address: { $why }
linked-to = linked to { $shop }
linked = linked
linked-searching = looking for the shop's counter
linked-not = not linked
linked-broken = no counter answers
link-card-unreadable = The shop's card on this drive cannot be read ({ $why }). The machine is tested all the same and is not on the wall. Make the drive anew with “--shop”.
wall-silent-short = silent
wall-heard-now = heard now
wall-stage = job: { $stage }

# locate: channels by timing
key-by-time = find channels by timing
locate-by-time = timing
by-time-pairs = pairs of words are timed
by-time-streams = streams are timed
by-time-warming = modules are warmed: { $done } of at most { $of } turns done. What timing found stays if this is stopped
by-time-going-on = Channels are being found by timing. Wait for the end, or stop it: x under Locate.
by-time-stopped = Stopped before anything was known.
by-time-no-addresses = Physical addresses are not known here (only root may see them): timing can show nothing.
by-time-no-rows = Timing shows nothing here: no pair of words takes longer than others. A virtual machine hides its rows, or the memory controller closes each row after use.
by-time-no-channels = Timing found banks and no channels: there is one channel, or the cores cannot fill more than one.
by-time-open = Timing left it open: what was measured contradicts itself. Nothing is claimed.
by-time-slots = { $count } channels found, and their slots by the warmth of the modules. A map is kept; u goes by it.
by-time-halves = { $count } channels found and kept: errors can be placed in a half of the addresses, not in a slot.
by-time-no-mainboard = { $count } channels found. Not kept: nothing says which mainboard this is.
by-time-not-usable = { $count } channels found; which slots they have is not known.
