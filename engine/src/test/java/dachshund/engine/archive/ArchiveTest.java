package dachshund.engine.archive;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.archive.ArchiveStore.Counts;
import dachshund.core.archive.Column;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.definition.Plant;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.Density;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.keep.Selection;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.engine.FakeClock;
import dachshund.engine.archive.FakeArchiveStore.Mood;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import dachshund.engine.tag.TagTable;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Random;
import java.util.TreeMap;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** From a change in the tag table to blocks in a store, through a real journal; the clock is moved by hand. */
class ArchiveTest {

    private static final TagRef A = new TagRef("5ca1ab1e", "a");
    private static final TagRef B = new TagRef("5ca1ab1e", "b");
    private static final SegmentJournal.Limits SMALL = new SegmentJournal.Limits(1 << 20, 0, 20_000, 1);
    private static final KeepingRuleDefinition ALL = rule(Selection.source(A.source()), Density.CHANGES);

    @TempDir
    Path folder;

    private final FakeClock clock = new FakeClock();
    private final FakeArchiveStore store = new FakeArchiveStore();
    private Path place;
    private LocalStore local;
    private TagTable tags;
    private Archive archive;
    private SegmentJournal.Limits limits = SMALL;

    private static KeepingRuleDefinition rule(Selection which, Density how) {
        return new KeepingRuleDefinition("0000000a", "All", "", which, how, 30, 0);
    }

    private static SourceDefinition source(String... addresses) {
        return new SourceDefinition(
                A.source(),
                "Scale",
                "",
                "kept",
                Map.of(),
                Duration.ofSeconds(1),
                Stream.of(addresses)
                        .map(each -> new TagInfo(
                                each,
                                "Line 1",
                                "Tag " + each,
                                DataKind.NUMBER,
                                "t",
                                "",
                                false,
                                Optional.of(new Range(0, 200)),
                                OptionalInt.empty(),
                                Optional.empty(),
                                List.of(),
                                Map.of(),
                                Map.of()))
                        .toList());
    }

    @BeforeEach
    void start() {
        place = folder.resolve("1");
        open(ALL);
    }

    private void open(KeepingRuleDefinition... rules) {
        local = new LocalStore(place.resolve("local.db"));
        tags = new TagTable(clock);
        archive = new Archive(place.resolve("archive"), limits, tags, clock, local);
        live(rules);
        archive.storeIn(store);
    }

    private void live(KeepingRuleDefinition... rules) {
        SourceDefinition source = source("a", "b");
        List<KeepingRuleDefinition> all = List.of(rules);
        archive.changeover(
                all,
                new Plant(
                        "Works",
                        ZoneOffset.UTC,
                        Stream.concat(all.stream(), Stream.of(source)).toList()));
    }

    @AfterEach
    void stop() {
        archive.close();
        local.close();
    }

    /** As kill -9 leaves it: what is on disk now goes on elsewhere, and nothing is closed in order. */
    private void dieAndStart(KeepingRuleDefinition... rules) throws IOException {
        settleOnDisk();
        Path next = folder.resolve(
                Integer.toString(Integer.parseInt(place.getFileName().toString()) + 1));
        copy(place, next);
        stop();
        place = next;
        clock.pass(Duration.ofSeconds(30));
        open(rules);
    }

    private void settleOnDisk() {
        soon(archive::isOnDisk);
    }

    private static void copy(Path from, Path to) throws IOException {
        try (Stream<Path> files = Files.walk(from)) {
            files.forEach(file -> {
                try {
                    Files.copy(file, to.resolve(from.relativize(file).toString()));
                } catch (IOException e) {
                    throw new UncheckedIOException(e);
                }
            });
        }
    }

    private void change(TagRef tag, Object value) {
        change(tag, TagValue.good(value, clock.now()));
    }

    private void change(TagRef tag, TagValue value) {
        tags.offer(tag.source(), List.of(new TagChange(tag.address(), value)));
    }

    private void pass(long millis) {
        clock.pass(Duration.ofMillis(millis));
    }

    private void stored() {
        pass(61_000);
        archive.storeNow();
        long kept = archive.kept();
        soon(() -> {
            archive.storeNow();
            return archive.trouble().isEmpty() && store.counts().offered() >= kept;
        });
    }

    @Test
    void whatWasHeardCanBeAskedForAtOnceWhenSomebodyWaitsForIt() throws Exception {
        stored();
        for (int i = 0; i < 20; i++) {
            change(A, 100.0 + i);
            assertThat(archive.heardSoFar(Duration.ofSeconds(60))).isTrue();
            // Storing that was asked for before may have taken it there meanwhile.
            List<Column> tail = archive.tail(A);
            Series seen = tail.isEmpty() ? store.series(A) : Series.of(tail);
            assertThat(seen.value(seen.size() - 1)).contains(100.0 + i);
            pass(100);
        }
    }

    private void until(java.util.concurrent.Callable<Boolean> it) {
        soon(() -> {
            archive.storeNow();
            return it.call();
        });
    }

    private static String words(Series series) {
        List<String> all = new ArrayList<>();
        for (int i = 0; i < series.size(); i++) {
            all.add(
                    Marks.isGap(series.mark(i))
                            ? Marks.gap(series.mark(i)).name()
                            : series.value(i).map(Object::toString).orElse("none")
                                    + (Marks.quality(series.mark(i)).isGood()
                                            ? ""
                                            : " "
                                                    + Marks.quality(series.mark(i))
                                                            .grade()));
        }
        return String.join(", ", all);
    }

    private void addsUp() {
        Counts counts = store.counts();
        assertThat(counts.offered())
                .as("%s", counts)
                .isEqualTo(counts.kept() + counts.replaced() + counts.within() + counts.refused());
        assertThat(store.values()).isEqualTo(counts.kept());
    }

    @Test
    void everyChangeIsStoredWithItsTimeTo100NsItsQualityAndItsSort() {
        Instant exact = clock.now().plusNanos(1_234_500);
        change(A, TagValue.good(1.5, exact));
        change(A, TagValue.good(Long.MAX_VALUE, exact.plusNanos(100)));
        change(A, TagValue.good(true, exact.plusNanos(200)));
        change(
                A,
                new TagValue(
                        Optional.of("run"),
                        new Quality(Quality.Grade.UNCERTAIN, 0x40920000L, ""),
                        exact.plusNanos(300),
                        exact));
        change(A, new TagValue(Optional.empty(), Quality.bad(0x808A0000L, "x"), exact.plusNanos(400), exact));
        until(() -> store.series(A).size() == 5);
        Series series = store.series(A);
        assertThat(words(series)).isEqualTo("1.5, 9223372036854775807, true, run UNCERTAIN, none BAD");
        assertThat(OpcUaTime.toInstant(series.time(0))).isEqualTo(exact);
        assertThat(series.time(4) - series.time(0)).isEqualTo(4);
        assertThat(Marks.quality(series.mark(3)).code()).isEqualTo(0x40920000L);
        addsUp();
        assertThat(store.tags.values()).allMatch(tag -> tag.name().equals("Scale / Line 1 / Tag a"));
    }

    @Test
    void whatDoesNotChangeIsNotKeptAgainButTheLastOfItBeforeAChange() {
        for (double value : new double[] {5, 5, 5, 5, 6, 6, 7}) {
            change(A, value);
            pass(1000);
        }
        until(() -> store.series(A).size() == 5);
        assertThat(words(store.series(A))).isEqualTo("5.0, 5.0, 6.0, 6.0, 7.0");
        assertThat(store.series(A).time(1) - store.series(A).time(0)).isEqualTo(3 * 10_000_000);
        addsUp();
        assertThat(store.counts().within()).isEqualTo(2);
    }

    @Test
    void aDeadbandInTheTagsUnitAndInPercentOfItsRange() {
        live(rule(Selection.source(A.source()), new Density(Optional.empty(), 1, true))); // 2 of 200
        for (double value : new double[] {10, 11, 12, 12.1, 9, 50}) {
            change(A, value);
            pass(1000);
        }
        until(() -> store.series(A).size() == 5);
        assertThat(words(store.series(A))).isEqualTo("10.0, 12.0, 12.1, 9.0, 50.0");
        addsUp();
    }

    @Test
    void atARateTheFirstOfEachPeriodIsKeptAndWhateverHasAnotherQuality() {
        live(rule(Selection.source(A.source()), Density.every(Duration.ofSeconds(10))));
        for (int i = 0; i < 25; i++) {
            TagValue value = TagValue.good((double) i, clock.now());
            change(A, i == 13 ? value.withQuality(Quality.bad(0x80000000L, ""), clock.now()) : value);
            pass(1000);
        }
        until(() -> store.series(A).size() == 5);
        assertThat(words(store.series(A))).isEqualTo("0.0, 10.0, 13.0 BAD, 14.0, 20.0");
        addsUp();
    }

    @Test
    void aLateValueLandsWhereItBelongsAndOneOfTheSameInstantTakesThePlaceOfTheOther() {
        Instant t0 = clock.now();
        change(A, TagValue.good(1.0, t0));
        change(A, TagValue.good(3.0, t0.plusSeconds(2)));
        change(A, TagValue.good(2.0, t0.plusSeconds(1)));
        change(A, TagValue.good(4.0, t0.plusSeconds(2)));
        until(() -> store.series(A).size() == 3);
        assertThat(words(store.series(A))).isEqualTo("1.0, 2.0, 4.0");
        addsUp();
        assertThat(store.counts().replaced()).isEqualTo(1);
    }

    /** A server that is back tells a value that is as old as before: it is good again from when it came. */
    @Test
    void whileItsSourceIsAwayATagIsBadAndThenGoodAgainThoughItsValueIsTheOldOne() {
        TagValue value = TagValue.good(1.0, clock.now());
        change(A, value);
        pass(5000);
        tags.away(A.source(), clock.now());
        pass(5000);
        change(A, new TagValue(value.value(), Quality.GOOD, value.sourceTime(), clock.now()));
        until(() -> store.series(A).size() == 3);
        assertThat(words(store.series(A))).isEqualTo("1.0, 1.0 BAD, 1.0");
        assertThat(store.series(A).time(2) - store.series(A).time(1)).isEqualTo(5 * 10_000_000);
        addsUp();
    }

    @Test
    void timesThatCannotBeAreRefusedWithASentenceAndTheRestGoesOn() {
        change(A, new TagValue(Optional.of(1.0), Quality.GOOD, OpcUaTime.toInstant(0), clock.now()));
        pass(1000);
        change(
                A,
                new TagValue(Optional.of(2.0), Quality.GOOD, clock.now().minus(Duration.ofDays(36_500)), clock.now()));
        change(A, new TagValue(Optional.of(3.0), Quality.GOOD, clock.now().plus(Duration.ofDays(2)), clock.now()));
        change(A, new TagValue(Optional.of(4.0), Quality.GOOD, Instant.MAX, clock.now()));
        pass(1000);
        change(A, 5.0);
        until(() -> store.series(A).size() == 3);
        // The two without a time that can be are from when they came.
        assertThat(words(store.series(A))).isEqualTo("1.0, 4.0, 5.0");
        assertThat(store.counts().refused()).isEqualTo(2);
        change(B, "x".repeat(1_000_001));
        change(B, "x".repeat(1000));
        until(() -> store.series(B).size() == 1 && store.counts().refused() == 3);
        assertThat(archive.said().toString()).contains("1000001 letters");
        assertThat(archive.said().toString()).contains("older than this rule keeps");
        assertThat(archive.status(ALL.id()).orElseThrow().trouble()).isEqualTo(2);
        addsUp();
    }

    @Test
    void aTagThatNoRuleKeepsAnyMoreEndsInAGapAndOneThatAnotherRuleTakesDoesNot() {
        change(A, 1.0);
        change(B, 1.0);
        pass(1000);
        live(new KeepingRuleDefinition("0000000b", "Other", "", Selection.ticked(List.of(A)), Density.CHANGES, 30, 0));
        pass(1000);
        change(A, 2.0);
        change(B, 2.0);
        pass(1000);
        live(ALL);
        pass(1000);
        change(B, 3.0);
        until(() -> words(store.series(B)).endsWith("3.0"));
        assertThat(words(store.series(A))).doesNotContain("NO_RULE").endsWith("2.0");
        assertThat(words(store.series(B))).isEqualTo("1.0, NO_RULE, 2.0, 3.0");
        addsUp();
    }

    @Test
    void aKillLosesNothingThatWasAppendedAndLeavesAGap() throws IOException {
        change(A, 1.0);
        change(B, 7.0);
        pass(2000);
        change(A, 2.0);
        pass(500);
        dieAndStart(ALL);
        change(A, 3.0);
        until(() -> words(store.series(A)).endsWith("3.0"));
        assertThat(words(store.series(A))).isEqualTo("1.0, 2.0, AWAY, 3.0");
        assertThat(words(store.series(B))).isEqualTo("7.0, AWAY");
        long gap = store.series(A).time(2);
        // Of A it is known over which time nothing came; nothing has come of B yet.
        assertThat(archive.holes(10)).singleElement().satisfies(hole -> {
            assertThat(hole.tag()).isEqualTo(A);
            assertThat(hole.since()).isEqualTo(gap);
            assertThat(hole.until()).isEqualTo(store.series(A).time(3));
        });
        assertThat(archive.holes(10)).isEmpty();
        assertThat(OpcUaTime.toInstant(gap))
                .isBetween(clock.now().minusSeconds(32), clock.now().minusSeconds(30));
        addsUp();
    }

    /** It did what it was asked, and the answer was lost: nothing is stored twice. */
    @Test
    void whateverTheStoreDoesEachValueIsStoredOnceAndTroubleIsASentence() {
        change(A, 1.0);
        until(() -> store.series(A).size() == 1);
        for (Mood mood : List.of(Mood.AWAY, Mood.UNHEARD, Mood.THROWS, Mood.ERROR)) {
            store.mood = mood;
            for (int i = 0; i < 5; i++) {
                pass(1000);
                change(A, (double) clock.nanos());
            }
            until(() -> !archive.trouble().isEmpty());
            assertThat(archive.trouble())
                    .contains(
                            mood == Mood.AWAY
                                    ? "is away"
                                    : mood == Mood.UNHEARD
                                            ? "did not come"
                                            : mood == Mood.THROWS ? "a defect" : "StackOverflowError");
            store.mood = Mood.WELL;
            until(() -> archive.trouble().isEmpty());
        }
        until(() -> store.series(A).size() == 21);
        assertThat(store.values()).isEqualTo(21);
        addsUp();
    }

    /** One tag's values are refused for a reason that nobody knows: all others are stored, and those are set aside, counted. */
    @ParameterizedTest
    @ValueSource(booleans = {false, true})
    void whatTheStoreRefusesForNoKnownReasonIsSetAsideAndAllElseGoesOn(boolean oddly) throws IOException {
        store.refusesOddly = oddly;
        change(A, 1.0);
        change(B, "before");
        until(() -> store.values() == 2);
        store.refuses = Optional.of(B);
        for (int i = 0; i < 5; i++) {
            pass(1000);
            change(A, 2.0 + i);
            change(B, "\"odd\", " + i);
        }
        until(() -> archive.trouble().contains("Error 4711"));
        soon(() -> {
            pass(40_000); // pauses grow
            archive.storeNow();
            return store.series(A).size() == 6;
        });
        until(() -> archive.trouble().isEmpty());
        assertThat(words(store.series(B))).isEqualTo("before, SET_ASIDE");
        assertThat(archive.said()).anyMatch(line -> line.words().contains("5 values of Scale / Line 1 / Tag b"));
        try (Stream<Path> files = Files.list(place.resolve("archive/refused"))) {
            assertThat(Files.readAllLines(files.findFirst().orElseThrow()))
                    .hasSize(6)
                    .first()
                    .isEqualTo("tag,time,value,quality");
        }
        assertThat(store.counts().refused()).isEqualTo(5);
        addsUp();
        // Where all that there is is refused, it is the store: nothing is set aside.
        change(B, "waits");
        int offers = store.offers;
        until(() -> store.offers > offers + 1);
        assertThat(store.counts().refused()).isEqualTo(5);
        store.refuses = Optional.empty();
        until(() -> words(store.series(B)).endsWith("waits"));
        pass(1000);
        change(B, "after");
        until(() -> words(store.series(B)).equals("before, SET_ASIDE, waits, after"));
        addsUp();
    }

    @Test
    void whereTheJournalIsFullValuesAreRefusedCountedAndAGap() throws IOException {
        stop();
        limits = new SegmentJournal.Limits(60_000, 0, 20_000, 1);
        store.mood = Mood.AWAY;
        open(ALL);
        until(() -> {
            pass(1000);
            change(A, (double) clock.nanos());
            return archive.status(ALL.id()).orElseThrow().counts().refused() > 3;
        });
        assertThat(archive.said().toString()).contains("is full");
        store.mood = Mood.WELL;
        until(() -> {
            pass(1000);
            change(A, (double) clock.nanos());
            return words(store.series(A)).contains("REFUSED, ");
        });
        stored();
        until(() -> store.counts().refused() > 3);
        addsUp();
    }

    @Test
    void aJournalThatIsLostIsAGapAndNothingNewIsTakenForOld() throws IOException {
        for (int i = 0; i < 20; i++) {
            change(A, (double) i);
            pass(1000);
        }
        until(() -> store.series(A).size() == 20);
        stop();
        try (Stream<Path> files = Files.list(place.resolve("archive"))) {
            for (Path file : files.toList()) {
                Files.delete(file);
            }
        }
        clock.pass(Duration.ofMinutes(5));
        open(ALL);
        for (int i = 20; i < 25; i++) {
            change(A, (double) i);
            pass(1000);
        }
        until(() -> store.series(A).size() == 26);
        assertThat(words(store.series(A))).contains("19.0, AWAY, 20.0").endsWith("24.0");
        addsUp();
    }

    /** An older copy of the machine's disk: numbers of entries come again, and what is new is not taken for what is stored. */
    @Test
    void anOlderCopyOfTheJournalTakesNothingNewForOld() throws IOException {
        change(A, 1.0);
        settleOnDisk();
        pass(1000);
        Path copy = folder.resolve("older");
        copy(place, copy);
        for (int i = 2; i < 30; i++) {
            change(A, (double) i);
            pass(1000);
        }
        until(() -> store.series(A).size() == 29);
        stop();
        place = copy;
        clock.pass(Duration.ofMinutes(5));
        open(ALL);
        for (int i = 30; i < 35; i++) {
            change(A, (double) i);
            pass(1000);
        }
        until(() -> words(store.series(A)).endsWith("34.0"));
        assertThat(words(store.series(A))).contains("29.0, AWAY, 30.0");
        assertThat(store.series(A).size()).isEqualTo(35);
    }

    @Test
    void blocksEndWhereASpanOfEightHoursDoes() {
        for (int i = 0; i < 30; i++) {
            change(A, (double) i);
            pass(Duration.ofHours(1).toMillis());
        }
        until(() -> store.series(A).size() == 30);
        assertThat(store.blocks())
                .allMatch(block -> ArchiveStore.spanOf(block.first()) == block.span()
                        && ArchiveStore.spanOf(block.last()) == block.span());
    }

    /** Each value keeps the time that it has; nothing is lost, and the sign of life goes by time that passed. */
    @Test
    void aClockThatIsSetBackLosesNothing() {
        change(A, 1.0);
        pass(1000);
        clock.set(Duration.ofHours(-1));
        change(A, 2.0);
        pass(1000);
        change(A, 3.0);
        until(() -> store.series(A).size() == 3);
        assertThat(words(store.series(A))).isEqualTo("2.0, 3.0, 1.0");
        addsUp();
        AtomicLong entries = new AtomicLong();
        until(() -> {
            entries.set(store.lanes().get(0).nth());
            return true;
        });
        pass(2000);
        until(() -> store.lanes().get(0).nth() > entries.get());
    }

    /** Times of sources are not held against a clock of ours that is years off, either way. */
    @Test
    void aClockThatIsYearsOffRefusesNoValueForItsTime() {
        change(A, 1.0);
        for (int days : List.of(36_500, -73_000)) {
            pass(1000);
            clock.set(Duration.ofDays(days));
            until(() -> archive.isClockDoubted());
            change(
                    A,
                    new TagValue(
                            Optional.of((double) days),
                            Quality.GOOD,
                            clock.now().minus(Duration.ofDays(days)),
                            clock.now()));
        }
        until(() -> store.series(A).size() == 3);
        assertThat(store.counts().refused()).isZero();
        addsUp();
    }

    @Test
    void aSourceThatWasAwayLeavesAHoleAndABadValueOfItsOwnDoesNot() {
        change(A, 1.0);
        pass(1000);
        change(A, new TagValue(Optional.of(1.0), Quality.bad(0x808C0000L, "sensor"), clock.now(), clock.now()));
        pass(1000);
        change(A, 2.0);
        pass(1000);
        tags.away(A.source(), clock.now());
        pass(10_000);
        change(A, 3.0);
        until(() -> store.series(A).size() == 5);
        assertThat(archive.holes(10)).singleElement().satisfies(hole -> assertThat(hole.until() - hole.since())
                .isEqualTo(100_000_000));
    }

    /** Values late and at one instant, a store that misbehaves, kills and changes of the rule, as chance has it. */
    @Test
    void whateverHappensTheStoreHasWhatTheTagsSaid() throws IOException {
        for (long seed = 1; seed <= 12; seed++) {
            long number = seed;
            Random random = new Random(seed);
            Map<TagRef, TreeMap<Long, Double>> said = Map.of(A, new TreeMap<>(), B, new TreeMap<>());
            FakeArchiveStore fresh = store;
            double next = seed * 1_000_000;
            Instant begun = clock.now();
            for (int step = 0; step < 150; step++) {
                switch (random.nextInt(12)) {
                    case 0 -> fresh.mood = Mood.values()[random.nextInt(Mood.values().length)];
                    case 1 -> fresh.mood = Mood.WELL;
                    case 2 -> {
                        if (random.nextInt(6) == 0) {
                            dieAndStart(ALL);
                            begun = clock.now();
                        }
                    }
                    case 3 -> archive.storeNow();
                    case 4 ->
                        live(
                                ALL,
                                new KeepingRuleDefinition(
                                        "0000000c", "Ticks", "", Selection.ticked(List.of(B)), Density.CHANGES, 30, 0));
                    case 5 -> live(ALL);
                    default -> {
                        pass(1 + random.nextInt(3000));
                        TagRef tag = random.nextBoolean() ? A : B;
                        Instant at = clock.now().minusMillis(random.nextInt(4) == 0 ? random.nextInt(5000) : 0);
                        // One that is older than this run, told first, counts from when it came.
                        at = at.isAfter(begun) ? at : clock.now();
                        double value = next++;
                        said.get(tag).put(OpcUaTime.toTicks(at), value);
                        change(tag, new TagValue(Optional.of(value), Quality.GOOD, at, clock.now()));
                    }
                }
            }
            fresh.mood = Mood.WELL;
            for (TagRef tag : List.of(A, B)) {
                Map<Long, Double> wanted = said.get(tag);
                until(() -> wanted.isEmpty()
                        || values(fresh.series(tag), number).entrySet().containsAll(wanted.entrySet()));
            }
            addsUp();
        }
    }

    private static Map<Long, Double> values(Series series, long seed) {
        return IntStream.range(0, series.size())
                .filter(i -> series.value(i).isPresent())
                .filter(i -> (Double) series.value(i).get() >= seed * 1_000_000)
                .boxed()
                .collect(java.util.stream.Collectors.toMap(
                        series::time, i -> (Double) series.value(i).get()));
    }
}
