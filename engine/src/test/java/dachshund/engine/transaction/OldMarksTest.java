package dachshund.engine.transaction;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.FakeClock;
import dachshund.engine.local.LocalStore;
import dachshund.engine.night.NightWork;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** In the night marks go that their transaction keeps no longer, and nothing else, whatever a database does. */
class OldMarksTest {

    private interface Trouble {
        void maybe() throws StoreProblem;
    }

    @TempDir
    Path folder;

    private final FakeClock clock = new FakeClock();
    private final List<TransactionDefinition> designs = new ArrayList<>();
    private final Map<String, Set<String>> old = new HashMap<>();
    private final Map<String, Trouble> troubles = new HashMap<>();
    private final List<String> said = new ArrayList<>();
    private final List<Integer> steps = new ArrayList<>();
    private LocalStore local;
    private OldMarks marks;

    @BeforeEach
    void open() {
        local = new LocalStore(folder.resolve("local.db"));
        marks = opened();
        itIs("2026-11-29T02:31:00Z");
    }

    @AfterEach
    void close() {
        local.close();
    }

    private OldMarks opened() {
        return new OldMarks(
                new OldMarks.Around() {
                    @Override
                    public Collection<TransactionDefinition> all() {
                        return List.copyOf(designs);
                    }

                    @Override
                    public Transacting database(String id) {
                        if (id.equals("gone")) {
                            throw new IllegalArgumentException("Its database is not there any more.");
                        }
                        return transacting(id);
                    }

                    @Override
                    public String name(String database) {
                        return "Records " + database;
                    }

                    @Override
                    public void say(String transaction, String sentence) {
                        said.add(transaction + ": " + sentence);
                    }
                },
                local,
                clock,
                ZoneOffset.UTC);
    }

    private void itIs(String time) {
        clock.pass(Duration.between(clock.now(), Instant.parse(time)));
    }

    private Transacting transacting(String id) {
        Transacting database = mock(Transacting.class);
        try {
            when(database.doneBefore(any(), anyInt(), anyInt())).thenAnswer(asked -> {
                maybe(id);
                assertThat(asked.<Integer>getArgument(1)).isEqualTo(400);
                return there(asked.getArgument(0), id).stream()
                        .limit(asked.<Integer>getArgument(2))
                        .toList();
            });
            doAnswer(asked -> {
                        maybe(id);
                        List<String> these = asked.getArgument(1);
                        Set<String> there = there(asked.getArgument(0), id);
                        steps.add(these.size());
                        int before = there.size();
                        there.removeAll(these);
                        return before - there.size();
                    })
                    .when(database)
                    .forget(any(), any());
        } catch (StoreProblem never) {
            throw new AssertionError(never);
        }
        return database;
    }

    private void maybe(String id) throws StoreProblem {
        Trouble trouble = troubles.get(id);
        if (trouble != null) {
            trouble.maybe();
        }
    }

    private Set<String> there(String transaction, String database) {
        return old.computeIfAbsent(transaction + " in " + database, none -> new LinkedHashSet<>());
    }

    private TransactionDefinition design(String id, String database, boolean mark, int days) {
        TransactionDefinition design = TransactionDefinition.begun(id, "Lot " + id, database)
                .withDatabase(database, Isolation.READ_COMMITTED, mark)
                .withPolicy(Policy.USUAL.keepingMarks(days), List.of());
        designs.add(design);
        for (int i = 0; i < 1200; i++) {
            there(id, database).add("request " + i);
        }
        return design;
    }

    private void steps(int many) {
        for (int i = 0; i < many; i++) {
            clock.pass(Duration.ofNanos(marks.step()));
        }
    }

    @Test
    void theyGoAFewHundredAtATimeAndItIsSaid() {
        TransactionDefinition design = design("a", "db", true, 400);
        there("a", "db").add(Past.LAST_RUN);
        steps(6);
        assertThat(there("a", "db")).containsExactly(Past.LAST_RUN);
        assertThat(steps).containsExactly(500, 500, 200);
        assertThat(said).containsExactly("a: 1,200 old marks were removed from Records db.");
        assertThat(marks.removed(design)).singleElement().satisfies(removed -> {
            assertThat(removed.words()).isEqualTo("1,200 old marks were removed.");
            assertThat(removed.needsSomebody()).isFalse();
        });
        assertThat(opened().removed(design))
                .as("also after a restart")
                .extracting(OldMarks.Removed::marks)
                .containsExactly(1200L);
    }

    @Test
    void byDayNothingGoesAndNothingWithoutAMarkOrForOneThatKeepsThemForEver() {
        design("kept", "db", true, 0);
        design("none", "db", false, 400);
        itIs("2026-11-29T12:00:00Z");
        steps(5);
        itIs("2026-11-30T02:31:00Z");
        steps(20);
        assertThat(steps).isEmpty();
        assertThat(there("kept", "db")).hasSize(1200);
        assertThat(said).isEmpty();
    }

    @Test
    void oneDatabaseThatIsAwayOrGoneOrOddDelaysNoOther() {
        TransactionDefinition away = design("away", "far", true, 400);
        TransactionDefinition gone = design("gone", "gone", true, 400);
        TransactionDefinition odd = design("odd", "odd", true, 400);
        design("good", "db", true, 400);
        troubles.put("far", () -> {
            throw new StoreProblem(Kind.AWAY, -1, "It does not answer.", null);
        });
        troubles.put("odd", () -> {
            throw new AssertionError("odd");
        });
        steps(8);
        assertThat(there("good", "db")).isEmpty();
        steps(3 * NightWork.TRIES);
        assertThat(marks.removed(away).get(0).words())
                .isEqualTo("0 old marks were removed, not all that are old enough. It does not answer.");
        assertThat(marks.removed(away).get(0).needsSomebody()).isTrue();
        assertThat(marks.removed(gone).get(0).trouble()).isEqualTo("Its database is not there any more.");
        assertThat(marks.removed(odd).get(0).trouble()).contains("odd");
        assertThat(said).contains("away: Old marks stay in Records far. It does not answer.");
        // The next night it is there again.
        troubles.clear();
        itIs("2026-11-30T02:31:00Z");
        steps(20);
        assertThat(there("away", "far")).isEmpty();
        assertThat(marks.removed(away).get(0).needsSomebody()).isFalse();
    }

    @Test
    void marksThatDoNotGoAreNotTriedForEver() {
        TransactionDefinition design = design("a", "db", true, 400);
        Set<String> stubborn = new LinkedHashSet<>(there("a", "db")) {
            private static final long serialVersionUID = 1;

            @Override
            public boolean removeAll(Collection<?> these) {
                return false;
            }
        };
        old.put("a in db", stubborn);
        steps(20);
        assertThat(steps).containsExactly(500);
        assertThat(marks.removed(design).get(0).trouble())
                .isEqualTo("None of 500 marks that were found could be removed.");
    }

    @Test
    void whatIsKeptForLongerMeanwhileStays() {
        design("a", "db", true, 400);
        steps(1);
        designs.clear();
        there("a", "db").clear();
        design("a", "db", true, 0);
        steps(5);
        assertThat(steps).containsExactly(500);
        assertThat(there("a", "db")).hasSize(1200);
    }
}
