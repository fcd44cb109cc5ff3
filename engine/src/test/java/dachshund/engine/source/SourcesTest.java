package dachshund.engine.source;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.awaitility.Awaitility.await;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.eq;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.timeout;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import dachshund.core.definition.Plant;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.engine.formula.FormulaKind;
import dachshund.engine.kept.KeptKind;
import dachshund.engine.local.LocalStore;
import dachshund.engine.tag.TagTable;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Sources at work: kept and formula tags for real, a plant link that does what it is told, a clock that stands still. */
class SourcesTest {

    @TempDir
    Path folder;

    private final TagTable table = new TagTable(() -> Instant.EPOCH);
    private Instant now = Instant.parse("2026-11-25T06:00:00Z");
    private final PlantClock clock = () -> now;
    private final PlantLink link = mock(PlantLink.class);
    private final LinkKind plant = mock(LinkKind.class);
    private LocalStore local;
    private Sources sources;

    @BeforeEach
    void open() {
        when(plant.id()).thenReturn("plant");
        when(plant.outside()).thenReturn(true);
        when(plant.open(any())).thenReturn(link);
        start();
    }

    private void start() {
        local = new LocalStore(folder.resolve("local.db"));
        sources = new Sources(
                List.of(plant, new KeptKind(local), new FormulaKind(table)),
                new dachshund.core.secret.Seals(new SecretBox(new byte[32])),
                dachshund.core.reach.Outside.ANYWHERE,
                table,
                clock,
                local);
    }

    private void follow(List<SourceDefinition> wanted) {
        sources.changeover(wanted, new Plant("", ZoneOffset.UTC, List.of()));
    }

    @AfterEach
    void close() {
        sources.close();
        local.close();
    }

    private static SourceDefinition source(String id, String link, boolean writing, TagInfo... tags) {
        return new SourceDefinition(id, id, "", link, Map.of(), Duration.ofSeconds(1), List.of(tags), writing);
    }

    private static TagInfo number(String address, boolean writable, Map<String, String> how) {
        return new TagInfo(address, "", address, DataKind.NUMBER, "", "", writable)
                .withRange(Optional.of(new Range(0, 10)))
                .withHow(how);
    }

    private TagValue value(String source, String address) {
        return table.entry(new TagRef(source, address)).value();
    }

    private void plantSays(String address, double number) {
        sources.find("p").orElseThrow().onBatch(List.of(new TagChange(address, TagValue.good(number, now))));
    }

    private static TagInfo formula(String address, String text, Map<String, TagRef> inputs) {
        return new TagInfo(address, "", address, DataKind.NUMBER, "", "", false)
                .withHow(Map.of(FormulaTag.FORMULA, text, FormulaTag.INPUTS, FormulaTag.lines(inputs)));
    }

    @Test
    void keptValuesOutliveARestartAndTheirLimitsHold() throws Exception {
        SourceDefinition kept = source(
                "k",
                KeptKind.ID,
                false,
                number("target", true, Map.of("first", "3.4")),
                number("free", true, Map.of()));
        follow(List.of(kept));
        assertThat(value("k", "target").value()).contains(3.4);
        assertThat(value("k", "free").quality().words()).contains("nobody has written it yet");
        Sources.Written written = sources.write(new TagRef("k", "target"), 5.0, "ann");
        assertThat(written.same()).isTrue();
        assertThat(written.before().value()).contains(3.4);
        assertThat(sources.find("k").orElseThrow().lastWrite("target"))
                .hasValueSatisfying(last -> assertThat(last.by()).isEqualTo("ann"));
        assertThatThrownBy(() -> sources.write(new TagRef("k", "target"), 11.0, "ann"))
                .isInstanceOf(LinkProblem.class)
                .hasMessageContaining("0 to 10")
                .hasMessageContaining("Nothing was written");
        close();
        start();
        follow(List.of(kept));
        assertThat(value("k", "target").value()).contains(5.0);
        assertThat(value("k", "target").quality()).isEqualTo(Quality.GOOD);
    }

    @Test
    void formulasFollowTheirInputsOnceABatchAndThroughEachOther() {
        TagRef a = new TagRef("p", "a");
        TagRef b = new TagRef("p", "b");
        SourceDefinition works =
                source("p", "plant", false, number("a", false, Map.of()), number("b", false, Map.of()));
        SourceDefinition formulas = source(
                "f",
                FormulaTag.LINK,
                false,
                formula("sum", "a + b", Map.of("a", a, "b", b)),
                formula("twice", "s * 2", Map.of("s", new TagRef("f", "sum"))),
                formula("wrong", "nope", Map.of()));
        follow(List.of(works, formulas));
        long before = table.changes();
        sources.find("p")
                .orElseThrow()
                .onBatch(List.of(
                        new TagChange("a", TagValue.good(1.0, now)), new TagChange("b", TagValue.good(2.0, now))));
        assertThat(value("f", "sum").value()).contains(3.0);
        assertThat(value("f", "twice").value()).contains(6.0);
        assertThat(table.changes() - before)
                .as("two changes, and each formula once")
                .isEqualTo(4);
        assertThat(value("f", "wrong").quality().words()).contains("no input named nope");
        sources.find("p").orElseThrow().onState(LinkState.AWAY, "It went away.");
        assertThat(value("f", "twice").quality().isBad()).isTrue();
        assertThat(value("f", "twice").value())
                .as("the last value, no longer to be trusted")
                .contains(6.0);
    }

    @Test
    void timedFormulasAreComputedAsTimePasses() {
        SourceDefinition works = source("p", "plant", false, number("a", false, Map.of()));
        SourceDefinition formulas = new SourceDefinition(
                "f",
                "f",
                "",
                FormulaTag.LINK,
                Map.of(),
                Duration.ofMillis(50),
                List.of(formula("age", "since(a)", Map.of("a", new TagRef("p", "a")))));
        follow(List.of(works, formulas));
        plantSays("a", 1);
        now = now.plusSeconds(7);
        soon(() -> value("f", "age").value().orElse(0.0).equals(7.0));
    }

    @Test
    void writingToAPlantIsOffByDefaultRangeCheckedAndReadBack() throws Exception {
        TagInfo setPoint = number("sp", true, Map.of());
        TagRef ref = new TagRef("p", "sp");
        follow(List.of(source("p", "plant", false, setPoint, number("fixed", false, Map.of()))));
        assertThatThrownBy(() -> sources.write(ref, 5.0, "ann")).hasMessageContaining("Writing to p is off");
        follow(List.of(source("p", "plant", true, setPoint, number("fixed", false, Map.of()))));
        assertThatThrownBy(() -> sources.write(ref, 50.0, "ann")).hasMessageContaining("outside the range");
        assertThatThrownBy(() -> sources.write(new TagRef("p", "fixed"), 5.0, "ann"))
                .hasMessageContaining("read only");
        verify(link, never()).write(any(), any(), any());
        when(link.read(any(), any())).thenReturn(Map.of("sp", TagValue.good(4.0, now)));
        assertThat(sources.write(ref, 5.0, "ann").same())
                .as("the plant took another value")
                .isFalse();
        verify(link).write(eq(setPoint), eq(5.0), any());
        when(link.read(any(), any())).thenReturn(Map.of("sp", TagValue.good((double) 5.1f, now)));
        assertThat(sources.write(ref, 5.1, "ann").same())
                .as("a float of 32 bits is the same")
                .isTrue();
    }

    @Test
    void aPausedSourceStaysPausedOverARestartAndItsValuesAreBad() {
        SourceDefinition works = source("p", "plant", false, number("a", false, Map.of()));
        follow(List.of(works));
        plantSays("a", 1);
        sources.pause("p", "ann", "valve work");
        assertThat(sources.find("p").orElseThrow().status().state()).isEqualTo(LinkState.PAUSED);
        assertThat(sources.find("p").orElseThrow().status().sentence()).isEqualTo("Paused by ann: valve work");
        assertThat(value("p", "a").quality().isBad()).isTrue();
        verify(link, timeout(20_000).atLeastOnce()).close();
        close();
        start();
        follow(List.of(works));
        assertThat(sources.find("p").orElseThrow().link()).isEmpty();
        sources.resume("p");
        assertThat(sources.find("p").orElseThrow().link()).isPresent();
    }

    @Test
    void aSourceThatIsClosedWhileItIsStartingLeavesNoConnectionBehind() throws Exception {
        CountDownLatch starting = new CountDownLatch(1);
        AtomicBoolean closed = new AtomicBoolean();
        AtomicBoolean open = new AtomicBoolean();
        doAnswer(asked -> {
                    starting.countDown();
                    while (!closed.get()) {
                        Thread.onSpinWait(); // deaf to interrupts
                    }
                    return null;
                })
                .when(link)
                .want(any());
        doAnswer(asked -> {
                    open.set(true);
                    return null;
                })
                .when(link)
                .start(any(), any());
        doAnswer(asked -> {
                    open.set(false);
                    closed.set(true);
                    return null;
                })
                .when(link)
                .close();
        follow(List.of(source("p", "plant", false, number("a", false, Map.of()))));
        assertThat(starting.await(60, TimeUnit.SECONDS)).isTrue();
        sources.pause("p", "ann", "");
        soon(closed::get);
        await().during(Duration.ofMillis(300)).until(() -> !open.get());
    }

    @Test
    void aClockThatIsWrongIsReported() {
        follow(List.of(source("p", "plant", false, number("a", false, Map.of()))));
        SourceRun run = sources.find("p").orElseThrow();
        run.onState(LinkState.CONNECTED, "Connected.");
        run.onBatch(List.of(new TagChange("a", TagValue.good(1.0, now))));
        assertThat(run.clockRemark()).isEmpty();
        run.onBatch(
                List.of(new TagChange("a", new TagValue(Optional.of(2.0), Quality.GOOD, now.plusSeconds(90), now))));
        assertThat(run.clockRemark()).contains("ahead of ours by at least 90 s");
        run.onState(LinkState.CONNECTED, "Connected again.");
        for (int i = 0; i < 10; i++) {
            now = now.plusSeconds(60);
            run.onBatch(List.of(new TagChange(
                    "a", new TagValue(Optional.of((double) i), Quality.GOOD, now.minusSeconds(3600), now))));
        }
        assertThat(run.clockRemark()).contains("behind ours");
    }

    @Test
    void faultsAreKeptWithTheirTimesAndBounded() {
        follow(List.of(source("p", "plant", false)));
        SourceRun run = sources.find("p").orElseThrow();
        for (int i = 0; i < 120; i++) {
            run.onProblem("Fault " + i);
        }
        assertThat(run.faultCount()).isEqualTo(120);
        assertThat(run.faults()).hasSize(50).first().satisfies(fault -> assertThat(fault.sentence())
                .isEqualTo("Fault 119"));
    }
}
