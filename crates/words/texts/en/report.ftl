# All words of the report in English. The other language has the same keys; a test compares them.

report-title = Memory report
report-made = Made { $when }
report-by = by { $technician }
report-machine = Computer
report-owner = Owner
report-told = Complaint
report-changed = Changed before
report-tried = Tried before
report-job = Job
report-simulated = Everything in this report comes from a simulated computer.
report-open-note = The work is not finished: this is how far it has come.
report-page = Page { $page } of { $pages }

# The answer, with the part in the words of an owner.
report-next = What to do next
report-sure = How sure

report-verdict-module = The memory module { $module } is faulty.
report-verdict-unfit = The memory module { $module } is good, but incompatible with this computer.
report-verdict-slot = The memory slot { $slot } of the mainboard is faulty.
report-verdict-no-part = No part is broken. A module was poorly seated, or it was a one-off error.
report-verdict-combination = The module { $module } works alone and fails with the others installed.
report-verdict-pair = The modules { $module } and { $other } are each good, but do not work together.
report-verdict-settings = The memory settings in the firmware are too fast for this computer.
report-verdict-controller = The memory controller fails: it is part of the processor and reached through the mainboard.
report-verdict-two = The memory modules { $module } and { $other } are both faulty.
report-verdict-module-slot = The memory module { $module } and the slot { $slot } are both faulty.
report-verdict-other = Memory fails, and no single part explains it.
report-verdict-open = One of these: { $parts }.
report-verdict-unproved = Probably { $part }. This is not proved: no run was possible without it.
report-verdict-going-on = Not decided yet. Most suspect so far: { $part }.
report-verdict-clean = No error was found in what was tested. This rules out faults that show often, not rare ones.
report-verdict-nothing = Nothing was tested yet.
report-verdict-unfinished = No error was found, but no run was complete and long enough to rule anything out.
report-verdict-not-whole = Records of this job are damaged, so a missing error proves nothing.
report-record-lost = { $count ->
    [one] The record of one run or of this job is damaged or missing. Its content is not in this report.
   *[other] { $count } records of this job are damaged or missing. Their content is not in this report.
}
report-verdict-believe = The tester failed its self-check. The result is void.

report-part-module = the module { $module }
report-part-unfit = the module { $module }, good, but incompatible with this computer
report-part-slot = the slot { $slot }
report-part-no-part = poor seating or a one-off error
report-part-combination = { $module } with others installed
report-part-pair = { $module } and { $other } together
report-part-settings = the memory settings
report-part-controller = mainboard or processor
report-part-two = the modules { $module } and { $other }
report-part-module-slot = the module { $module } and the slot { $slot }
report-part-other = something else

report-band-095 = very likely
report-band-050 = likely
report-band-005 = possible
report-band-000 = unlikely

report-why-with = { $failed ->
    [one] One run with it failed
   *[other] { $failed } runs with it failed
  }; without it the rest ran clean{ $passes ->
    [0] .
    [1] , one full pass at the longest.
   *[other] , { $passes } full passes at the longest.
  }
report-why-alone = { $failed ->
    [one] One run with it failed
   *[other] { $failed } runs with it failed
  }, and no run was possible without it.
report-why-beside = { $failed ->
    [one] One run with it and others installed failed
   *[other] { $failed } runs with it and others installed failed
  }; with it alone, and without it, all were clean{ $passes ->
    [0] .
    [1] , one full pass at the longest.
   *[other] , { $passes } full passes at the longest.
  }
report-why-touched = After reseating the modules, the first arrangement ran clean.
report-why-settings = With the fast settings it failed, at the standard settings it ran clean.
report-why-best = It explains the runs better than any module or slot.
report-clean-worth = { $runs ->
    [one] The strongest clean run
   *[other] The { $runs } strongest clean runs, with the same modules, settings and tests,
  } took { $time } and { $passes ->
    [one] one full pass
   *[other] { $passes } full passes
  }. Ruled out with 95 % confidence: random faults more often than once in { $interval }, and faults that show in more than { $percent } % of passes. Rarer faults are not ruled out.

# What to do.
report-do-replace = Replace the module; see the order below.
report-do-elsewhere = Before scrapping it, test it in another computer. If it passes there, it is good but incompatible with this one.
report-do-use-elsewhere = Use it in another computer. Loading the firmware's defaults and updating the firmware is sometimes enough.
report-do-combination = First load the firmware's defaults and update the firmware. If it still fails, replace the module, preferably with the same part number as the others.
report-do-pair = Keep one of the two and use the other elsewhere. Buy the same part number as the one that stays, or a matched set.
report-do-slot = Clean the slot and check its contacts. If it still fails, leave it empty, or replace the mainboard.
report-do-module-slot = Replace the module; leave the slot empty, or replace the mainboard.
report-do-settings = Leave the fast settings off. If you need their speed: update the firmware, then test them once more overnight.
report-do-no-part = Buy nothing. Test overnight: a contact can come loose again.
report-do-controller = Load the firmware's defaults and update the firmware. Reseat the processor and check its cooler. Test the modules in another computer before you replace the mainboard or the processor.
report-do-other = Look beyond memory: power supply, heat, storage.
report-do-open-good = Swap in a known-good module of the same kind for each module in turn to settle it.
report-do-open-set = Replace modules that pass alone and fail together with a matched set.
report-do-going-on = The next step: { $step }.
report-do-files = Back up and check your files: those written while memory was bad may be damaged.
report-do-proof = Then test all modules together once more, with computing load{ $time ->
    [none] .
    [once] . It failed only once before, so a clean run alone does not prove the repair.
   *[other] ; { $time } without an error show with 95 % confidence that it helped.
  }
report-do-clean-next = If the problem persists, check in this order: system updates; the system's check of its own files; drivers; the firmware; storage and its cables; a fresh installation; then memory again, overnight and under computing load.
report-do-begin = Run all modules together, with all tests.

report-next-run = { $fitting }, for { $time }

# Order.
report-order = What to order
report-order-module = { $kind }, { $size }{ $speed ->
    [none] {""}
   *[other] , { $speed } MT/s
  }{ $ranks ->
    [none] {""}
    [one] , 1 rank
   *[other] , { $ranks } ranks
  }{ $timings ->
    [none] {""}
   *[other] , timings { $timings } or lower
  }, { $ecc ->
    [yes] with ECC
   *[no] without ECC
  }
report-order-part = Preferably the same part number: { $part }.
report-order-beside = Combine it with modules of the same kind. If that one is no longer sold, buy a matched set.
report-order-new = New rather than used. Do not mix registered with unbuffered, or ECC with non-ECC.
report-order-board = Check the memory support list (QVL) of the { $board }.

# Story.
report-story = Runs and results
report-story-none = No run was made.
report-col-run = run
report-col-when = when
report-col-fitted = arrangement
report-col-settings = settings
report-col-long = duration
report-col-passes = full passes
report-col-result = result
report-fitted-in = { $module } in { $slot }
# The result of a run; the same words as on the screen.
report-told-void = Self-check failed: result void
report-told-errors = { $count ->
    [one] { $shown } memory error
   *[other] { $shown } memory errors
  }
report-told-uncorrectable = { $count ->
    [one] { $shown } uncorrectable hardware error
   *[other] { $shown } uncorrectable hardware errors
  }
report-told-miscalculated = Computed wrong: { $count ->
    [one] { $shown } number
   *[other] { $shown } numbers
  }
report-told-corrected = Only corrected errors: { $shown }
report-told-clean = Clean
report-told-clean-so-far = Clean so far: { $progress }
report-told-no-full-pass = Nothing found, but no full pass
report-told-nothing-tested = Nothing found, but no memory stayed in the test
report-told-not-whole = Record damaged: nothing found in the rest of it
report-record-damaged = { $told }, record damaged
report-progress-first = first pass not finished
report-progress-passes = { $count ->
    [one] { $shown } pass
   *[other] { $shown } passes
  }
report-progress-passes-of = { $done } of { $planned } passes
report-progress-time-of = { $done } of { $planned }
report-in-place = { $told } in { $place }
report-in-places = { $told } in { $places } places
report-in-slots = { $told } ({ $slots })
report-on-part = { $told } on { $tested } of { $whole }
report-on-unknown = { $told } on { $tested }, installed memory unknown
report-ended-plan = { $told }, all passes done
report-ended-time = { $told }, the time was up
report-ended-error-limit = { $told }, stopped at the error limit
report-ended-hand = { $told }, stopped by hand
report-ended-broke-off = { $told }, broken off by power loss, hang or restart
report-unproved = { $told }, no self-check ran
report-shown-again = Shown again: { $told }
report-not-shown-again = Not shown again: { $told }
report-times = { $count } × { $result }
report-struck-out = { $result } (excluded: { $reason })
report-doubtful-clock = { $when } (this computer's clock was wrong)

# Modules.
report-modules = The modules
report-col-module = module
report-col-kind = kind
report-col-size = size
report-col-serial = serial number
report-col-outcome = disposition
report-end-replace = replace
report-end-elsewhere = good, use elsewhere
report-end-in-question = in question
report-end-keep = passed, stays
report-end-untested = not tested
report-end-unknown = not decided
report-good = known-good
report-unnamed = without a serial number

# Where.
report-where = Where it failed
report-where-words = { $shape } in { $slots }{ $lanes ->
    [none] {""}
   *[other] , data line (DQ) { $lanes }
  }.
report-certainty-certain = The slot is certain: no other one is possible.
report-certainty-assumed = The slot comes from an address map that no run has confirmed yet.
report-certainty-one-of = It is one of these slots; which one is not known.
report-certainty-unknown = The slot is unknown.
report-shape-cell = One cell
report-shape-column = Cells of one column
report-shape-row = Cells of one row
report-shape-bank = Cells all over one bank
report-shape-lane = One data line, all over
report-shape-lane-pair = Two data lines
report-shape-byte-lane = One byte lane
report-shape-address-line = Words where one address bit has one value
report-shape-half-module = One rank of a module
report-shape-whole-module = A whole module
report-shape-channel = All slots of one channel
report-shape-decoder-doubles = Pairs of words, one address bit apart
report-shape-scattered = Single bits here and there
report-shape-machine = Everything, in every channel
report-shape-several = One of these: { $shapes }

# Files.
report-files = What this means for files
report-files-words = While memory was bad, anything that passed through it may have changed unnoticed: saved documents, installed programs, copies and backups. Compare with older backups. Check the system files. Files that were only read are not affected.

# Detail.
report-detail = In detail
report-tested = What was tested
report-tested-words = { $bytes } of { $fitted } tested ({ $percent } %).
report-tested-unknown = { $bytes } tested; installed memory unknown.
report-never = What was never tested
report-never-rest = { $reason ->
    [chosen] { $bytes } of the memory: left out by choice.
    [firmware] { $bytes } of the memory: kept by the firmware.
    [running-system] { $bytes } of the memory: used by the running system.
    [moved] { $bytes } of the memory: its pages moved while they were being tested.
    [taken-out] { $bytes } of the memory: taken out after a hardware error.
   *[other] { $bytes } of the memory: not every test finished on it.
  }
report-never-computing = Memory under computing load: no run had that load.
report-never-overnight = Faults too rare for the time of these runs.
report-never-modules = These modules were in no run that finished: { $modules }.
report-never-hot = Hot memory: no temperature was reported.
report-loads-both = Covered: test patterns and computing load.
report-loads-patterns = Covered: test patterns. Not covered: computing load.
report-hottest = Highest module temperature: { $celsius } °C.
report-order-from = March tests find couplings between cells that lie at least { $bytes } apart. Closer ones may be missed.
report-order-of-shares = Several cores divided the memory: couplings between cells of different shares may be missed.
report-heat-only-from = Errors only at { $from } °C and above: the fault shows when it is warm.
report-heat-no-difference = From { $from } to { $to } °C warmth made no difference to the errors.
report-rows-by-map = Row disturbance opened up to { $rows } rows of one bank in turns, each at least { $openings } times in 64 ms. The address map named the rows.
report-rows-by-timing = Row disturbance opened up to { $rows } rows of one bank in turns, each at least { $openings } times in 64 ms. Reads that took longer named the rows: neighbours are likely, not certain.
report-rows-guessed = Row disturbance read up to { $rows } words in turns, at distances where rows of one bank often lie. Whether it opened rows is not known.
report-tests = Tests of run { $run }
report-col-test = test
report-col-finished = passes finished
report-col-wrong = errors
report-col-swept = data swept
report-chart-errors = Errors over time, run { $run }
report-chart-errors-heat = Errors over time (bars) and temperature (line), run { $run }
report-chart-grid = Tests and passes, run { $run }
report-chart-board = The board in run { $run }
report-axis-minutes = minutes
report-axis-words = errors
report-axis-celsius = °C

report-logged = What the computer's own system had logged
report-logged-more = And { $count ->
    [one] one more.
   *[other] { $count } more.
  }
report-col-last = last
report-col-logged = what
report-col-count = count
report-col-slot = slot
report-col-address = address
report-log-uncorrected = memory error that could not be corrected
report-log-check-found = the system's memory check found errors
report-log-page-retired = the system excluded a memory page
report-log-corrected = memory errors that were corrected
report-log-machine-check = the processor reported an error
report-log-stop-screen = the system stopped with a screen
report-log-check-clean = the system's memory check found nothing

report-kept = Where this comes from
report-kept-words = Program { $program }. The report follows from the journals of the runs named below; their checksum (SHA-256) is { $sum }. The same journals give the same checksum.
report-signed = This report says what was measured and what follows from it, each with its confidence. It is not a warranty for any part.

report-speed = How fast the memory is
report-speed-one-channel = Memory carried { $rate }, { $share } of what { $channels } channels give: all modules share one channel. Move one of them to { $free }.
report-speed-lost-channel = Memory carried { $rate }, { $share } of what { $channels } channels give, although each has a module: a channel may be lost.
report-speed-profile-off = Memory carried { $rate }, as expected at { $speed } MT/s. The modules are sold for { $sold } MT/s: their profile is switched off. Switched on it is faster, and has to be tested again.
report-speed-profile-stored = Memory carried { $rate }, as expected at { $speed } MT/s. The modules hold a faster profile, which is switched off. Switched on it has to be tested again.
report-speed-tables = Memory carried { $rate }, more than the firmware's tables allow at { $speed } MT/s: they are wrong.
report-speed-guest = Measured inside a virtual machine: no conclusion is drawn.
report-speed-small = Reading with all cores what no cache holds; the time of a single load in random order.
report-half = about half
report-col-measured = measured
report-col-speeds = installed, MT/s
report-col-read = reading
report-col-latency = one load
