# All words of the report in English. The other language has the same keys; a test compares them.

report-title = Memory report
report-made = Made { $when }
report-by = by { $technician }
report-machine = Computer
report-owner = Owner
report-told = Complaint
report-changed = Changed before
report-tried = Tried before
report-said = Owner said
report-seen = Seen here
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
report-verdict-channel = Every module fails in channel { $channel }: a contact in the processor's socket, a trace of the mainboard, or the memory controller.
report-verdict-too-many = Each module is good, but there are more of them than this computer runs at these settings.
report-verdict-position = The modules are good; they are in slots that do not work with these settings.
report-verdict-kits = The modules come from different kits. Each kit is good, but they do not work together.
report-verdict-no-part = No part is broken. A module was poorly seated, or it was a one-off error.
report-verdict-combination = The module { $module } works alone and fails with the others installed.
report-verdict-pair = The modules { $module } and { $other } are each good, but do not work together.
report-verdict-settings = The memory settings in the firmware are too fast for this computer.
report-verdict-controller = The memory controller fails: it is part of the processor and reached through the mainboard.
report-verdict-two = The memory modules { $module } and { $other } are both faulty.
report-verdict-module-slot = The memory module { $module } and the slot { $slot } are both faulty.
report-verdict-other = Memory fails, and no single part explains it.
report-verdict-open = One of these: { $parts }.
report-verdict-alike = Probably { $part }. This is not proved: other causes would have shown the same in these runs.
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



report-because = Because
report-why-alone = { $failed ->
    [one] One run with it failed
   *[other] { $failed } runs with it failed
  }, and no run was possible without it.
report-clean-worth = { $runs ->
    [one] The strongest clean run
   *[other] The { $runs } strongest clean runs, with the same modules, settings and tests,
  } took { $time } and { $passes ->
    [one] one full pass
   *[other] { $passes } full passes
  }. Ruled out with 95 % confidence: random faults more often than once in { $interval }, and faults that show in more than { $percent } % of passes. Rarer faults are not ruled out.

# What to do.
report-do-going-on = The next step: { $step }.
report-do-clean-next = If the problem persists, check in this order: { $list }.
report-do-nothing = Nothing is left to do.
report-do-begin = Run all modules together, with all tests.

report-next-run = { $fitting }, for { $time }

# Order.
report-ordered = What was ordered
report-order = What to order

# Story.
report-course = Course of the job
report-col-date = date
report-col-stage = stage
report-story = Runs and results
report-story-none = No run was made.
report-col-run = run
report-col-when = started
report-col-fitted = arrangement
report-col-settings = settings
report-col-long = duration
report-col-passes = full passes
report-col-result = result
report-fitted-in = { $module } in { $slot }
# The result of a run; the same words as on the screen.
report-in-slots = { $told } ({ $slots })
report-times = { $count } × { $result }
report-struck-out = { $result } (excluded: { $reason })
report-doubtful-clock = { $when } (this computer's clock was wrong)

# Modules.
report-modules = The modules
report-col-module = module
report-col-kind = type
report-col-size = size
report-col-serial = serial number
report-col-outcome = disposition
report-end-unknown = not decided
report-end-keep-out = ran clean; not installed at the end
report-end-not-at-fault-out = not at fault; not installed at the end
report-good = known-good
report-unnamed = without a serial number

# Where.
report-where = Where it failed
report-where-words = Fault pattern: { $shape } in { $slots }{ $lanes }.
report-certainty-certain = Attribution to slots: certain.
report-certainty-told = Attribution to slots: by the registers of the memory controller, which no real board has confirmed so far.
report-certainty-assumed = Attribution to slots: by an address map that no run has confirmed yet.
report-certainty-one-of = It is one of these slots; which one is not known.
report-certainty-unknown = The slot is unknown.
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
report-never-rest = { $bytes } of the memory: { $reason }.
report-never-computing = Memory under computing load: no run had that load.
report-never-overnight = Faults that are too rare for the time of these runs.
report-never-modules = These modules were in no run that finished: { $modules }.
report-never-hot = Hot memory: no temperature was reported.
report-loads-both = Covered: test patterns and computing load.
report-loads-patterns = Covered: test patterns. Not covered: computing load.
report-clock-steady = Processor clock while computing: { $clock } GHz.
report-clock-range = Processor clock while computing: { $lowest } to { $highest } GHz.
report-hottest = Highest module temperature: { $celsius } °C.
report-order-from = March tests find couplings between cells that lie at least { $bytes } apart. Closer ones may be missed.
report-order-of-shares = Several cores divided the memory: couplings between cells of different shares may be missed.
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
report-chart-after = The board in run { $run }, which ran clean
report-chart-board = The board in run { $run }
report-axis-minutes = minutes
report-axis-words = errors
report-axis-celsius = °C

report-logged = Logs of the computer's own system
report-logged-more = And { $count ->
    [one] one more.
   *[other] { $count } more.
  }
report-col-last = last
report-col-logged = entry
report-col-count = count
report-col-slot = slot
report-col-address = address

report-kept = Basis of this report
report-kept-words = Program { $program }. The report follows from the records of the runs named below; their checksum (SHA-256) is { $sum }. The same records give the same checksum.
report-kept-unread = Program { $program }. The records of the runs named below cannot all be read now: this report follows from what the program had in memory, and has no checksum to compare them by.
report-signed = This report says what was measured and what follows from it, with its confidence. It is not a warranty for any part.

report-speed = How fast the memory is
report-speed-guest = Measured inside a virtual machine: no conclusion is drawn.
report-speed-small = Reading with all cores what no cache holds; the time of a single load in random order.
report-col-measured = measured
report-col-speeds = installed, MT/s
report-col-read = reading
report-col-latency = one load

report-speed-simulated = { $machine }, simulated
report-speed-processor = Processor
report-speed-caches = Caches
report-speed-repeats = Repeats
report-speed-large-pages = Large pages
report-speed-large-share = { $percent } % of what was measured
report-speed-does = Memory performance
report-speed-table-note = Working sets that no cache holds; in brackets the lowest and the highest of all repeats. A copied byte counts once.
report-speed-charts = Charts
report-speed-each-once = { $repeats }, each loop once before any of them again
report-speed-stopped = { $repeats }, stopped before all of them were done
report-speed-shared = { $cache } for { $cores } cores
report-speed-compared = compared
report-speed-spread = { $value } ({ $low } to { $high })
report-speed-expected =
  { $channels ->
    [one] One channel
   *[other] { $channels } channels
  } at { $speed } MT/s: theoretical peak { $rate }.{ $ns ->
    [none] {""}
   *[other] {" "}Lowest possible latency { $ns } ns (DRAM timings only, at base speed).
  }
report-board-shows = What the mainboard shows
report-notes = Notes
report-started = started
report-no-start = did not start
report-declared = Nothing in this computer reports its slots and modules: they are as a person declared them.
report-narrowed-down = narrowed down
