package dachshund.core.when;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.shift.ShiftCalendar;
import dachshund.core.tag.Quality;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.tag.TaggedValue;
import dachshund.core.when.When.Edge;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;

/** Whens over a clock moved by hand. Times are seconds after a start. */
class WhenGroupTest {

    private static final Instant START = Instant.parse("2026-11-25T06:00:00Z");
    private static final TagRef A = new TagRef("s", "a");
    private static final TagRef B = new TagRef("s", "b");
    private static final Duration NONE = Duration.ZERO;

    private final Map<TagRef, TagValue> values = new HashMap<>();
    private final List<String> fired = new ArrayList<>();
    private WhenGroup group;
    private Instant now = START;

    private void begin(Optional<Condition> gate, When... whens) {
        group = new WhenGroup(
                List.of(whens),
                gate,
                new WhenFacts(
                        ZoneOffset.UTC,
                        ShiftCalendar.NONE,
                        List.of(A, B),
                        tag -> tag.equals(A) ? Optional.of(new Range(0, 200)) : Optional.empty(),
                        Optional.empty()));
        group.begin(tag -> values.getOrDefault(tag, TagValue.NONE), START);
    }

    private static Condition condition(String text) {
        return new Condition(text, Map.of("a", A, "b", B));
    }

    private void note(List<Firing> firings) {
        firings.forEach(firing ->
                fired.add(seconds(firing.at()) + (firing.kind() == Firing.Kind.ROW ? "" : " " + firing.kind())));
    }

    private static String seconds(Instant at) {
        double seconds = Duration.between(START, at).toMillis() / 1000.0;
        return seconds == Math.rint(seconds) ? Long.toString((long) seconds) : Double.toString(seconds);
    }

    /** Time passes to so many seconds after the start, served whenever the group asks for it. */
    private void to(double seconds) {
        Instant target = START.plusMillis(Math.round(seconds * 1000));
        while (!group.next().isAfter(target)) {
            now = group.next();
            note(group.time(now));
        }
        now = target;
    }

    private void change(double at, Object... tagsAndValues) {
        to(at);
        List<TaggedValue> batch = new ArrayList<>();
        for (int i = 0; i < tagsAndValues.length; i += 2) {
            TagValue value =
                    tagsAndValues[i + 1] instanceof TagValue whole ? whole : TagValue.good(tagsAndValues[i + 1], now);
            batch.add(new TaggedValue((TagRef) tagsAndValues[i], value));
        }
        group.changed(batch, now).ifPresent(firing -> note(List.of(firing)));
    }

    private static TagValue bad() {
        return new TagValue(Optional.empty(), Quality.AWAY, START, START);
    }

    @Test
    void severalRatesAtOneInstantMakeOneRowAndARateFromTheStartCountsFromIt() {
        begin(Optional.empty(), new When.Every(Duration.ofSeconds(2)), new When.Every(Duration.ofSeconds(3)));
        to(6);
        assertThat(fired).containsExactly("2", "3", "4", "6");
        fired.clear();
        WhenGroup fromStart = new WhenGroup(
                List.of(new When.Every(Duration.ofSeconds(10), true)), Optional.empty(), WhenFacts.of(ZoneOffset.UTC));
        fromStart.begin(tag -> TagValue.NONE, START.plusMillis(3500));
        assertThat(fromStart.next()).isEqualTo(START.plusMillis(13_500));
    }

    @Test
    void theFirstValueIsNoChangeAndAnUnchangedOneIsNone() {
        begin(Optional.empty(), new When.OnChange(Deadband.NONE, List.of(), NONE, NONE));
        change(1, A, 5.0);
        change(2, A, 5.0);
        change(3, A, 6.0);
        change(4, A, bad());
        change(5, A, bad());
        change(6, A, 6.0);
        assertThat(fired).as("a change, going bad, coming back").containsExactly("3", "4", "6");
    }

    /** A deadband counts from what last counted, so that a slow drift is not lost. */
    @Test
    void aDeadbandCountsFromTheLastChangeThatCounted() {
        values.put(A, TagValue.good(100.0, START));
        begin(Optional.empty(), new When.OnChange(new Deadband(Deadband.Kind.ABSOLUTE, 1), List.of(A), NONE, NONE));
        change(1, A, 100.6);
        change(2, A, 101.0);
        change(3, A, 101.1);
        change(4, A, 100.2);
        change(5, B, 9.0);
        assertThat(fired).containsExactly("3");
    }

    @Test
    void aDeadbandInPercentIsOfTheSpan() {
        values.put(A, TagValue.good(0.0, START));
        begin(
                Optional.empty(),
                new When.OnChange(new Deadband(Deadband.Kind.PERCENT, 1), List.of(), NONE, NONE)); // 1 % of 200 is 2
        change(1, A, 2.0);
        change(2, A, 2.1);
        change(3, B, 1.0);
        change(4, B, 1.1);
        assertThat(fired).as("B has no range, so each change of it counts").containsExactly("2", "4");
    }

    @Test
    void notMoreOftenKeepsTheLastChangeAndAtLeastFillsTheGap() {
        values.put(A, TagValue.good(0.0, START));
        begin(
                Optional.empty(),
                new When.OnChange(Deadband.NONE, List.of(), Duration.ofSeconds(5), Duration.ofSeconds(20)));
        change(1, A, 1.0);
        change(2, A, 2.0);
        change(3, A, 3.0);
        to(30);
        assertThat(fired).containsExactly("1", "6", "26");
    }

    @Test
    void aBatchMakesOneRowAndNothingInItIsPassedOver() {
        values.put(A, TagValue.good(0L, START));
        values.put(B, TagValue.good(0L, START));
        begin(
                Optional.empty(),
                new When.OnChange(Deadband.NONE, List.of(), NONE, NONE),
                new When.OnCondition(condition("a = 1"), Edge.RISING, NONE, NONE));
        change(1, A, 1L, A, 0L, B, 7L);
        assertThat(fired).as("a was 1 within the batch").containsExactly("1");
        begin(Optional.empty(), new When.OnCondition(condition("a != b"), Edge.RISING, NONE, NONE));
        fired.clear();
        change(2, A, 4L, B, 4L);
        assertThat(fired).as("what changes together is seen together").isEmpty();
    }

    @Test
    void edgesFireOnTheirWayAndNotAtTheStart() {
        values.put(A, TagValue.good(1L, START));
        for (Edge edge : Edge.values()) {
            fired.clear();
            now = START;
            begin(Optional.empty(), new When.OnCondition(condition("a = 1"), edge, NONE, NONE));
            change(1, A, 1L);
            change(2, A, 0L);
            change(3, A, 1L);
            change(4, A, bad());
            change(5, A, 1L);
            change(6, A, bad());
            change(7, A, 0L);
            assertThat(fired)
                    .as(edge.name())
                    .containsExactlyElementsOf(
                            switch (edge) {
                                case RISING -> List.of("3");
                                case FALLING -> List.of("2", "7");
                                case BOTH -> List.of("2", "3", "7");
                            });
        }
    }

    @Test
    void aDebounceWantsItToStayAndAHoldOffWantsPeace() {
        values.put(A, TagValue.good(0L, START));
        begin(
                Optional.empty(),
                new When.OnCondition(condition("a = 1"), Edge.RISING, Duration.ofSeconds(2), Duration.ofSeconds(30)));
        change(1, A, 1L);
        change(2, A, 0L);
        change(3, A, 1L);
        to(10);
        assertThat(fired).as("only what stayed for 2 s, at the time it had").containsExactly("5");
        change(11, A, 0L);
        change(14, A, 1L);
        to(20);
        change(21, A, 0L);
        change(40, A, 1L);
        to(50);
        assertThat(fired).as("within 30 s of the row nothing fires").containsExactly("5", "42");
    }

    @Test
    void aNewIdentifierFiresAndABadOneBetweenDoesNot() {
        values.put(A, TagValue.good("L1", START));
        begin(Optional.empty(), new When.OnIdentifier(A, NONE, NONE));
        change(1, A, bad());
        change(2, A, "L1");
        change(3, A, "L2");
        change(4, A, "");
        assertThat(fired).containsExactly("3", "4");
    }

    @Test
    void whileTrueTicksFromTheRise() {
        values.put(A, TagValue.good(0L, START));
        begin(Optional.empty(), new When.WhileTrue(condition("a = 1"), Duration.ofSeconds(10)));
        to(5);
        change(7, A, 1L);
        to(30);
        change(31, A, bad());
        change(60, A, 1L);
        to(75);
        assertThat(fired)
                .as("after it was unknown it goes on, but did not rise")
                .containsExactly("7", "17", "27", "70");
    }

    @Test
    void theGateIsShutWhileItIsNotTrueOrNotKnown() {
        begin(Optional.of(condition("b > 0")), new When.Every(Duration.ofSeconds(1)));
        to(2);
        change(2.5, B, 1.0);
        to(4);
        change(4.5, B, bad());
        to(6);
        change(6.5, B, 2.0);
        to(7);
        assertThat(fired).containsExactly("3", "4", "7");
    }

    @Test
    void aLateTickIsSkippedAndNeverWrittenUnderAPastTime() {
        begin(Optional.empty(), new When.Every(Duration.ofSeconds(1)));
        note(group.time(START.plusSeconds(5)));
        assertThat(fired).containsExactly("1 SKIPPED", "2 SKIPPED", "3 SKIPPED", "4", "5");
    }

    /** However often time is asked for in between, the same changes fire at the same instants: that is what a rehearsal relies on. */
    @Property(tries = 60)
    void askingMoreOftenChangesNothing(@ForAll long seed) {
        List<List<String>> runs = new ArrayList<>();
        for (boolean often : new boolean[] {false, true}) {
            WhenGroupTest test = new WhenGroupTest();
            Random random = new Random(seed);
            test.values.put(A, TagValue.good(0L, START));
            test.begin(
                    Optional.empty(),
                    new When.OnChange(
                            new Deadband(Deadband.Kind.ABSOLUTE, 1),
                            List.of(),
                            Duration.ofSeconds(3),
                            Duration.ofSeconds(9)),
                    new When.OnCondition(condition("a > 2"), Edge.BOTH, Duration.ofMillis(1500), Duration.ofSeconds(4)),
                    new When.WhileTrue(condition("a > 3"), Duration.ofMillis(700)),
                    new When.Every(Duration.ofSeconds(4)));
            double at = 0;
            for (int i = 0; i < 40; i++) {
                double next = at + random.nextInt(3000) / 1000.0;
                for (double step = at; often && step < next; step += 0.1) {
                    test.to(step);
                }
                at = next;
                test.change(at, A, (long) random.nextInt(6));
            }
            runs.add(test.fired);
        }
        assertThat(runs.get(1)).isEqualTo(runs.get(0));
    }

    /** A machine that slept, or whose clock was set: a year at 20 ms is 1.6 thousand million ticks. */
    @Test
    void aClockThatJumpsFarForwardCostsNoStepForEachTick() {
        values.put(A, TagValue.good(1.0, START));
        Duration period = Duration.ofMillis(20);
        Duration slept = Duration.ofDays(365);
        for (When when : List.of(
                new When.Every(period), new When.Every(period, true), new When.WhileTrue(condition("a > 0"), period))) {
            begin(Optional.empty(), when);
            List<Firing> firings = group.time(START.plus(slept));
            assertThat(firings).hasSizeBetween(2, 1100);
            assertThat(firings.stream().mapToLong(Firing::times).sum())
                    .as("all of them counted, %s", when)
                    .isEqualTo(slept.dividedBy(period));
            assertThat(firings.get(firings.size() - 1)).isEqualTo(Firing.row(START.plus(slept)));
            assertThat(firings.stream().filter(each -> each.kind() == Firing.Kind.ROW))
                    .as("not more than a period late")
                    .hasSizeLessThanOrEqualTo(2);
            assertThat(group.next()).isEqualTo(START.plus(slept).plus(period));
        }
    }
}
