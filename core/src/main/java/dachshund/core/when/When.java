package dachshund.core.when;

import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.time.format.TextStyle;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * What makes a recorder write a row. Each kind says itself what the rest has to know of it; what it does over time is its
 * {@link WhenState}, and several together are a {@link WhenGroup}. A new kind is a record here, a line in {@link #DOCUMENTS},
 * its state, and its form.
 */
public sealed interface When {

    /** How documents name each kind; never changes. */
    Map<String, Class<? extends When>> DOCUMENTS = Map.ofEntries(
            Map.entry("every", Every.class),
            Map.entry("onChange", OnChange.class),
            Map.entry("atTimes", AtTimes.class),
            Map.entry("atShiftEnds", AtShiftEnds.class),
            Map.entry("cron", ByCron.class),
            Map.entry("onCondition", OnCondition.class),
            Map.entry("onIdentifier", OnIdentifier.class),
            Map.entry("onRequest", OnRequest.class),
            Map.entry("onNewRow", OnNewRow.class),
            Map.entry("afterTransaction", AfterTransaction.class),
            Map.entry("whileTrue", WhileTrue.class));

    /** What its instants depend on. */
    enum Pace {
        /** Its rate alone. */
        RATE,
        /** A clock on the wall. */
        CLOCK,
        /** Values of tags. */
        VALUES,
        /** Something else, which brings it about by itself: its state never fires. */
        ELSEWHERE
    }

    /**
     * Another machine's tags, and what else a line has of its own.
     *
     * @param tag     the machine's own tag for one of the original's
     * @param leftOut tags of the original that it does without
     * @param rate    its own rate, where it has one
     * @param after   the machine's own transaction for one that is done for the original's, by their ids; empty where it has none
     * @param words   a name in which the original's machine may stand, as this line says it
     */
    record Swap(
            UnaryOperator<TagRef> tag,
            Collection<TagRef> leftOut,
            Optional<Duration> rate,
            UnaryOperator<String> after,
            UnaryOperator<String> words) {

        /** The machine's own tag, or nothing where the line does without. */
        public Optional<TagRef> kept(TagRef of) {
            return leftOut.contains(of) ? Optional.empty() : Optional.of(tag.apply(of));
        }

        public Condition condition(Condition of) {
            Map<String, TagRef> inputs = new LinkedHashMap<>();
            of.inputs().forEach((name, input) -> inputs.put(name, tag.apply(input)));
            return new Condition(of.text(), inputs);
        }
    }

    /** The When in words, to stand in a sentence. */
    String sentence();

    /**
     * The same, with the name of what else it comes of.
     *
     * @param name of a thing, by its id
     */
    default String sentence(UnaryOperator<String> name) {
        return sentence();
    }

    Pace pace();

    /** It at work. */
    WhenState state(WhenFacts facts);

    /** Its rate; empty where it has no steady one. */
    default Optional<Duration> rate() {
        return Optional.empty();
    }

    /** The tags that it names itself. */
    default Collection<TagRef> tags() {
        return dependsOn().map(each -> each.inputs().values()).orElse(List.of());
    }

    /** What its tags are to it, to begin a sentence on one of them. */
    default String tagWords() {
        return "An input of the condition";
    }

    /** Ids of other things that it names; a gap is empty. */
    default Set<String> things() {
        return Set.of();
    }

    /** The condition that it depends on; empty where it has none. */
    default Optional<Condition> dependsOn() {
        return Optional.empty();
    }

    /** The same with another condition; as it is where it has none. */
    default When withCondition(Condition other) {
        return this;
    }

    /** The same for another machine. */
    default When swapped(Swap swap) {
        return dependsOn().map(each -> withCondition(swap.condition(each))).orElse(this);
    }

    /** Whether it looks at the ranges of its tags, or else of the row's. */
    default boolean byRange() {
        return false;
    }

    /** Whether its rows are written as a shift ends. */
    default boolean atShiftEnd() {
        return false;
    }

    /**
     * At a steady rate; see {@link RateSchedule}.
     *
     * @param period    10 ms to 24 h
     * @param fromStart whether ticks are counted from the start of the recorder, else they are aligned to the plant's clock
     */
    record Every(Duration period, boolean fromStart) implements When {

        public static final Duration SHORTEST = Duration.ofMillis(10);
        public static final Duration LONGEST = Duration.ofHours(24);

        public Every {
            range(period, SHORTEST, LONGEST, "A rate lies between 10 ms and 24 h.");
        }

        public Every(Duration period) {
            this(period, false);
        }

        @Override
        public String sentence() {
            return "every " + PeriodText.write(period) + (fromStart ? " from its start" : "");
        }

        @Override
        public Pace pace() {
            return Pace.RATE;
        }

        @Override
        public Optional<Duration> rate() {
            return Optional.of(period);
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new TickState(this, new RateSchedule(period, facts.zone())::next);
        }

        @Override
        public When swapped(Swap swap) {
            return swap.rate().<When>map(rate -> new Every(rate, fromStart)).orElse(this);
        }
    }

    /**
     * When a value changes. The first value after a start is not a change; going to or from bad quality is one.
     *
     * @param deadband     how much a number must differ from the one that last counted as a change
     * @param tags         the tags to look at; none for every tag of the row
     * @param notMoreOften the shortest time between two rows; zero for none. A change within is written when it is over
     * @param atLeast      the longest time without a row; zero for none
     */
    record OnChange(Deadband deadband, List<TagRef> tags, Duration notMoreOften, Duration atLeast) implements When {

        public OnChange {
            tags = List.copyOf(tags);
            upToADay(notMoreOften, "The shortest time between two rows lies between nothing and 24 h.");
            upToADay(atLeast, "The longest time without a row lies between nothing and 24 h.");
            if (!atLeast.isZero() && atLeast.compareTo(notMoreOften) < 0) {
                throw new IllegalArgumentException(
                        "The longest time without a row is shorter than the shortest time between two.");
            }
        }

        @Override
        public String sentence() {
            return "on change" + (tags.isEmpty() ? "" : " of " + tags.size() + (tags.size() == 1 ? " tag" : " tags"))
                    + deadband.sentence()
                    + (notMoreOften.isZero() ? "" : ", not more often than every " + PeriodText.write(notMoreOften))
                    + (atLeast.isZero() ? "" : ", at least every " + PeriodText.write(atLeast));
        }

        @Override
        public Pace pace() {
            return Pace.VALUES;
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new ChangeState(this, facts);
        }

        @Override
        public String tagWords() {
            return "A tag that is looked at for changes";
        }

        /** None of its tags at all would mean those of the row. */
        @Override
        public When swapped(Swap swap) {
            List<TagRef> has =
                    tags.stream().filter(tag -> !swap.leftOut().contains(tag)).toList();
            return new OnChange(
                    deadband,
                    (has.isEmpty() ? tags : has).stream().map(swap.tag()).toList(),
                    notMoreOften,
                    atLeast);
        }

        @Override
        public boolean byRange() {
            return deadband.kind() == Deadband.Kind.PERCENT;
        }
    }

    /**
     * At times of day.
     *
     * @param days   the days of the week
     * @param times  one or several times of day
     * @param utc    whether days and times are UTC, else plant time
     * @param missed what happens with a time that passed while the application was not running
     */
    record AtTimes(Set<DayOfWeek> days, List<LocalTime> times, boolean utc, Missed missed) implements When {

        public AtTimes {
            days = Set.copyOf(days);
            times = times.stream().distinct().sorted().toList();
            if (days.isEmpty()) {
                throw new IllegalArgumentException("Tick one day of the week at least.");
            }
            if (times.isEmpty()) {
                throw new IllegalArgumentException("Write one time of day at least, such as 06:00.");
            }
        }

        @Override
        public String sentence() {
            String when = days.size() == 7
                    ? ""
                    : days.stream()
                            .sorted(Comparator.naturalOrder())
                            .map(day -> day.getDisplayName(TextStyle.SHORT, Locale.UK))
                            .collect(Collectors.joining(", ", "on ", " "));
            return when + "at " + times.stream().map(LocalTime::toString).collect(Collectors.joining(", "))
                    + (utc ? " UTC" : "");
        }

        @Override
        public Pace pace() {
            return Pace.CLOCK;
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new ClockState(ClockTimes.of(this, facts.zone()), missed, facts.served());
        }
    }

    /** At the end of every shift of the shift calendar. */
    record AtShiftEnds(Missed missed) implements When {
        @Override
        public String sentence() {
            return "at each shift end";
        }

        @Override
        public Pace pace() {
            return Pace.CLOCK;
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new ClockState(ClockTimes.ofShiftEnds(facts.shifts(), facts.zone()), missed, facts.served());
        }

        @Override
        public boolean atShiftEnd() {
            return true;
        }
    }

    /**
     * By a cron line of five fields: minute, hour, day of month, month, day of week (as in POSIX crontab).
     *
     * @param utc whether the fields are UTC, else plant time
     */
    record ByCron(String line, boolean utc, Missed missed) implements When {

        public ByCron {
            CronSchedule.check(line);
        }

        @Override
        public String sentence() {
            return "by cron " + line + (utc ? " UTC" : "");
        }

        @Override
        public Pace pace() {
            return Pace.CLOCK;
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new ClockState(ClockTimes.of(this, facts.zone()), missed, facts.served());
        }
    }

    /**
     * When a condition becomes true, false, or either. One that is true already at the start does not fire.
     *
     * @param debounce how long it must stay so before it counts
     * @param holdOff  how long after a row no other is written
     */
    record OnCondition(Condition condition, Edge edge, Duration debounce, Duration holdOff) implements When {

        public OnCondition {
            upToADay(debounce, "A debounce lasts up to 24 h.");
            upToADay(holdOff, "A hold-off lasts up to 24 h.");
        }

        @Override
        public String sentence() {
            return "when " + condition.text() + " " + edge.words() + settled(debounce, holdOff);
        }

        @Override
        public Pace pace() {
            return Pace.VALUES;
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new ConditionEdge(this);
        }

        @Override
        public Optional<Condition> dependsOn() {
            return Optional.of(condition);
        }

        @Override
        public When withCondition(Condition other) {
            return new OnCondition(other, edge, debounce, holdOff);
        }
    }

    /** When an identifier (a lot, an order) becomes another one. A bad value between is passed over; no text counts as one. */
    record OnIdentifier(TagRef tag, Duration debounce, Duration holdOff) implements When {

        public OnIdentifier {
            upToADay(debounce, "A debounce lasts up to 24 h.");
            upToADay(holdOff, "A hold-off lasts up to 24 h.");
        }

        @Override
        public String sentence() {
            return "when an identifier changes" + settled(debounce, holdOff);
        }

        @Override
        public Pace pace() {
            return Pace.VALUES;
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new IdentifierState(this);
        }

        @Override
        public Collection<TagRef> tags() {
            return List.of(tag);
        }

        @Override
        public String tagWords() {
            return "The identifier";
        }

        @Override
        public When swapped(Swap swap) {
            return new OnIdentifier(swap.tag().apply(tag), debounce, holdOff);
        }
    }

    /**
     * When the plant asks by a number: it becomes another one that is neither zero nor empty. One that waits at the start
     * fires, too, where an epoch or the number that is answered lets tell it from one that was answered.
     *
     * @param number   the number of the request
     * @param epoch    what changes when the controller begins to count anew; then a number that was there before is a new request
     * @param answered where the number is written once it is answered; a request whose number stands there already is none
     */
    record OnRequest(TagRef number, Optional<TagRef> epoch, Optional<TagRef> answered) implements When {

        /** Whether a value is the number of a request: neither zero nor empty. */
        public static boolean asks(Object value) {
            String number = plain(value);
            return !number.isBlank() && !number.equals("0");
        }

        /** A number is what it is, however it is carried. */
        static String plain(Object value) {
            return value instanceof Double number && number == Math.rint(number) && Math.abs(number) < 1e15
                    ? Long.toString(number.longValue())
                    : value.toString();
        }

        @Override
        public String sentence() {
            return "on a request with a number";
        }

        @Override
        public Pace pace() {
            return Pace.VALUES;
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new RequestState(this, facts.settle());
        }

        @Override
        public Collection<TagRef> tags() {
            return Stream.of(Optional.of(number), epoch, answered)
                    .flatMap(Optional::stream)
                    .toList();
        }

        @Override
        public String tagWords() {
            return "A tag of the request";
        }

        @Override
        public When swapped(Swap swap) {
            return new OnRequest(swap.tag().apply(number), epoch.flatMap(swap::kept), answered.flatMap(swap::kept));
        }
    }

    /**
     * For each new row of a table, once. A row is new that was not there when it began to look: it lies behind the furthest row seen,
     * or no further before it than the look-back, since rows are committed late, and may have equal times.
     *
     * @param database id of a database or destination; empty for none yet
     * @param table    its name, with its schema where it needs one
     * @param key      columns that tell its rows apart
     * @param order    the column that grows with new rows: a number or a time
     * @param back     how far it looks back where that is a time; 0 to 7 days
     * @param lower    how far it looks back where that is a number; 0 to 1,000,000
     * @param every    how often it looks, 200 ms to 1 h
     */
    record OnNewRow(
            String database, String table, List<String> key, String order, Duration back, long lower, Duration every)
            implements When {

        /** What its rows are called, as a look-up is called that gives one. */
        public static final String ROW = "row";

        public OnNewRow {
            key = List.copyOf(key);
            range(back, Duration.ZERO, Duration.ofDays(7), "A look-back lies between nothing and 7 days.");
            if (lower < 0 || lower > 1_000_000) {
                throw new IllegalArgumentException("A look-back in numbers lies between 0 and 1,000,000.");
            }
            range(every, Duration.ofMillis(200), Duration.ofHours(1), "Rows are looked for every 200 ms to 1 h.");
        }

        @Override
        public String sentence() {
            return "for each new row of " + (table.isBlank() ? "a table" : table) + ", looked for every "
                    + PeriodText.write(every);
        }

        /** How far it looks back, in words. */
        public String lookBack() {
            return back.isZero() ? Long.toString(lower) : PeriodText.write(back);
        }

        /** A table of its own; no table where that is not named after its machine, since each line would take each row. */
        @Override
        public When swapped(Swap swap) {
            String own = swap.words().apply(table);
            return new OnNewRow(database, own.equals(table) ? "" : own, key, order, back, lower, every);
        }

        @Override
        public Pace pace() {
            return Pace.ELSEWHERE;
        }

        @Override
        public Set<String> things() {
            return database.isEmpty() ? Set.of() : Set.of(database);
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new NeverState();
        }
    }

    /**
     * After each run of another transaction that is done, with the values that it had.
     *
     * @param transaction its id; empty for none yet
     */
    record AfterTransaction(String transaction) implements When {

        /** Stands before the names of what the other one knew. */
        public static final String PREFIX = "after_";

        @Override
        public String sentence() {
            return "after each run of another transaction";
        }

        @Override
        public String sentence(UnaryOperator<String> name) {
            return "after each run of "
                    + (transaction.isEmpty() ? "a transaction that is not chosen yet" : name.apply(transaction));
        }

        @Override
        public Pace pace() {
            return Pace.ELSEWHERE;
        }

        @Override
        public Set<String> things() {
            return transaction.isEmpty() ? Set.of() : Set.of(transaction);
        }

        /** A gap where the machine has none of its own: that transaction is another machine's. */
        @Override
        public When swapped(Swap swap) {
            return new AfterTransaction(swap.after().apply(transaction));
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new NeverState();
        }
    }

    /** At a rate while a condition is true, beginning when it becomes true. */
    record WhileTrue(Condition condition, Duration period) implements When {

        public WhileTrue {
            range(period, Every.SHORTEST, Every.LONGEST, "A rate lies between 10 ms and 24 h.");
        }

        @Override
        public String sentence() {
            return "every " + PeriodText.write(period) + " while " + condition.text();
        }

        @Override
        public Pace pace() {
            return Pace.VALUES;
        }

        @Override
        public WhenState state(WhenFacts facts) {
            return new WhileState(this);
        }

        @Override
        public Optional<Condition> dependsOn() {
            return Optional.of(condition);
        }

        @Override
        public When withCondition(Condition other) {
            return new WhileTrue(other, period);
        }
    }

    /** Which way a condition goes. */
    enum Edge {
        RISING("becomes true"),
        FALLING("becomes false"),
        BOTH("becomes true or false");

        private final String words;

        Edge(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    /** What happens with a clock time that passed while the application was not running. */
    enum Missed {
        RUN_LATE("write one row late"),
        SKIP("skip it"),
        MARK("write a row of that time without values");

        private final String words;

        Missed(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    private static String settled(Duration debounce, Duration holdOff) {
        return (debounce.isZero() ? "" : " and stays so for " + PeriodText.write(debounce))
                + (holdOff.isZero() ? "" : ", then not for " + PeriodText.write(holdOff));
    }

    private static void range(Duration period, Duration least, Duration most, String sentence) {
        if (period.compareTo(least) < 0 || period.compareTo(most) > 0) {
            throw new IllegalArgumentException(sentence);
        }
    }

    private static void upToADay(Duration length, String sentence) {
        range(length, Duration.ZERO, Every.LONGEST, sentence);
    }
}
