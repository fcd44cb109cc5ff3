package dachshund.core.trend;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.trend.Stretch.Change;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import org.junit.jupiter.api.Test;

class StretchTest {

    private static final Instant ZERO = Instant.parse("2026-11-28T06:00:00Z");

    private static Instant at(int second) {
        return ZERO.plusSeconds(second);
    }

    private static Change change(int second, String name) {
        return new Change(at(second), Optional.ofNullable(name));
    }

    @Test
    void eachNameHoldsUntilTheNextOneAndNothingIsSaidWhereNothingIsKnown() {
        assertThat(Stretch.of(
                        List.of(
                                change(-50, "before"),
                                change(-10, "run"),
                                change(20, null),
                                change(30, "run"),
                                change(40, "run"),
                                change(50, "clean")),
                        at(0),
                        at(60)))
                .containsExactly(
                        new Stretch(at(0), at(20), "run"),
                        new Stretch(at(30), at(50), "run"),
                        new Stretch(at(50), at(60), "clean"));
        assertThat(Stretch.of(List.of(), at(0), at(60))).isEmpty();
        assertThat(Stretch.of(List.of(change(70, "later")), at(0), at(60))).isEmpty();
        // Of two at one time the later one holds.
        assertThat(Stretch.of(List.of(change(5, "a"), change(5, "b")), at(0), at(9)))
                .containsExactly(new Stretch(at(5), at(9), "b"));
    }

    /** Against the plainest way: each second looked up by itself. */
    @Test
    void whateverChangesEachSecondHasTheNameThatWasGivenLast() {
        Random random = new Random(7);
        for (int round = 0; round < 300; round++) {
            List<Change> changes = new ArrayList<>();
            int second = -20;
            while (second < 120) {
                second += random.nextInt(12);
                changes.add(change(second, random.nextInt(4) == 0 ? null : "s" + random.nextInt(3)));
            }
            List<Stretch> found = Stretch.of(changes, at(0), at(100));
            for (int i = 1; i < found.size(); i++) {
                assertThat(found.get(i).from())
                        .isAfterOrEqualTo(found.get(i - 1).to());
                assertThat(found.get(i).from().equals(found.get(i - 1).to())
                                && found.get(i).name().equals(found.get(i - 1).name()))
                        .isFalse();
            }
            for (int i = -5; i < 110; i++) {
                Instant then = at(i);
                Optional<String> expected = i < 0 || i >= 100
                        ? Optional.empty()
                        : changes.stream()
                                .filter(each -> !each.at().isAfter(then))
                                .reduce((a, b) -> b)
                                .flatMap(Change::name);
                assertThat(found.stream()
                                .filter(each -> !then.isBefore(each.from()) && then.isBefore(each.to()))
                                .map(Stretch::name)
                                .findFirst())
                        .as("second %d of round %d", i, round)
                        .isEqualTo(expected);
            }
        }
    }
}
