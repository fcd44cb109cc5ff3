package dachshund.engine.transaction;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.time.PlantClock;
import dachshund.core.when.When;
import dachshund.engine.local.LocalStore;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeSet;
import java.util.function.Function;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Each row is taken once, whatever the order in which rows are committed, done, and the process dies. */
class TakenRowsTest {

    private static final int BACK = 20;
    private static final int TURNS = 600;
    private static final When.OnNewRow ROWS =
            new When.OnNewRow("b0000001", "sample", List.of("id"), "id", Duration.ZERO, BACK, Duration.ofSeconds(1));

    @TempDir
    Path folder;

    /** Numbers are given in order and committed up to 20 later; some that are under way are forgotten in a death. */
    @Test
    void anyOrderOfCommitsEndsAndDeathsTakesEachRowOnce() {
        everyRowOnce(ROWS, TakenRowsTest::place, next -> Instant.now());
    }

    /** The same by times, of which some are years ahead. */
    @Test
    void timesThatAreAheadLeaveNoneBehind() {
        Instant first = Instant.parse("2026-11-30T12:00:00Z");
        When.OnNewRow byTime = new When.OnNewRow(
                "b0000001", "sample", List.of("id"), "taken", Duration.ofSeconds(BACK), 0, Duration.ofSeconds(1));
        everyRowOnce(
                byTime,
                row -> new RowPlace(first.plusSeconds(row % 50 == 7 ? 400_000_000L + row : row)),
                next -> first.plusSeconds(next));
    }

    private void everyRowOnce(When.OnNewRow rows, Function<Integer, RowPlace> place, Function<Integer, Instant> nowAt) {
        for (int seed = 0; seed < 20; seed++) {
            Random random = new Random(seed);
            int[] now = new int[1];
            PlantClock clock = () -> nowAt.apply(now[0]);
            LocalStore local = new LocalStore(folder.resolve(rows.order() + seed + ".db"));
            TakenRows taken = new TakenRows(local.foundRows(), "x", clock);
            taken.begin(Map.of("0", place.apply(0)));
            TreeSet<Integer> table = new TreeSet<>(List.of(0));
            List<Integer> open = new ArrayList<>();
            List<Integer> underWay = new ArrayList<>();
            Map<Integer, Integer> done = new HashMap<>();
            int next = 1;
            for (int turn = 0; turn < TURNS || !open.isEmpty() || done.size() < next - 1; turn++) {
                if (turn < TURNS && random.nextInt(3) == 0) {
                    open.add(next++);
                }
                // Whoever has the oldest number commits before the numbers are 20 further.
                boolean due = turn >= TURNS || !open.isEmpty() && next - open.get(0) >= BACK;
                if (!open.isEmpty() && (due || random.nextInt(4) == 0)) {
                    table.add(open.remove(due ? 0 : random.nextInt(open.size())));
                }
                if (random.nextInt(40) == 0) {
                    local.close();
                    local = new LocalStore(folder.resolve(rows.order() + seed + ".db"));
                    taken = new TakenRows(local.foundRows(), "x", clock);
                    underWay.clear();
                }
                now[0] = next;
                RowPlace from = taken.look(rows).orElseThrow();
                for (Integer row : table) {
                    if (!underWay.isEmpty() && random.nextInt(10) == 0) {
                        // Amid the look one is done with.
                        Integer ready = underWay.remove(random.nextInt(underWay.size()));
                        taken.done(ready + "", rows);
                        done.merge(ready, 1, Integer::sum);
                    }
                    if (place.apply(row).compareTo(from) >= 0
                            && underWay.size() < 8
                            && taken.take(row + "", place.apply(row))) {
                        underWay.add(row);
                    }
                }
                taken.looked(false);
                while (!underWay.isEmpty() && random.nextInt(2) == 0) {
                    Integer row = underWay.remove(random.nextInt(underWay.size()));
                    if (random.nextInt(5) == 0) {
                        taken.letGo(row + "");
                    } else {
                        taken.done(row + "", rows);
                        done.merge(row, 1, Integer::sum);
                    }
                }
                assertThat(turn).as("seed " + seed).isLessThan(5000);
            }
            assertThat(done.keySet()).as("seed " + seed).hasSize(next - 1);
            assertThat(done.values()).as("seed " + seed).containsOnly(1);
            assertThat(local.foundRows().taken("x"))
                    .as("what is behind is forgotten")
                    .hasSizeLessThan(4 * BACK);
            local.close();
        }
    }

    private static RowPlace place(int number) {
        return new RowPlace(new BigDecimal(number));
    }

    @Test
    void placesStandOneBehindTheOtherAndAreReadAsTheyWereWritten() {
        RowPlace nine = RowPlace.of(9L).orElseThrow();
        RowPlace ten = RowPlace.of(new BigDecimal("10.0")).orElseThrow();
        assertThat(nine).isLessThan(ten);
        assertThat(RowPlace.read(ten.toString()))
                .isEqualByComparingTo(ten)
                .isEqualByComparingTo(RowPlace.of(10L).orElseThrow());
        assertThat(RowPlace.read(RowPlace.of(Long.MAX_VALUE).orElseThrow().toString()))
                .isGreaterThan(ten);
        Instant odd = Instant.parse("1601-01-01T00:00:00.000001Z");
        assertThat(RowPlace.read(RowPlace.of(odd).orElseThrow().toString()).at())
                .isEqualTo(odd);
        assertThat(RowPlace.of("PL1-1")).isEmpty();
        assertThat(RowPlace.of(null)).isEmpty();
        assertThat(RowPlace.of(Double.NaN)).isEmpty();
        When.OnNewRow byTime = new When.OnNewRow(
                "b0000001", "sample", List.of("id"), "taken", Duration.ofMinutes(10), 0, Duration.ofSeconds(1));
        assertThat(RowPlace.of(Instant.parse("2026-11-28T12:00:00Z"))
                        .orElseThrow()
                        .back(byTime)
                        .at())
                .isEqualTo(Instant.parse("2026-11-28T11:50:00Z"));
    }
}
