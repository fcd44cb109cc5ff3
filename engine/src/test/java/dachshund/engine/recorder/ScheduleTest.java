package dachshund.engine.recorder;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.RowId;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.when.When;
import dachshund.engine.FakeClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.count.CounterBook.Minute;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.RowCodec;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.local.LocalStore;
import dachshund.engine.tag.TagTable;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mockito.Mockito;

class ScheduleTest {

    @TempDir
    Path folder;
    private final FakeClock clock = new FakeClock();
    private final TagTable tags = new TagTable();
    private final CounterBook book = new CounterBook();
    private final List<RecorderRun> stopped = new ArrayList<>();
    private final Schedule schedule = new Schedule(clock, stopped::add);
    private final AtomicLong sequence = new AtomicLong();
    private LocalStore local;
    private DestinationWriter writer;
    private SegmentJournal journal;

    @BeforeEach
    void open() {
        local = new LocalStore(folder.resolve("local.db"));
        journal = new SegmentJournal(folder.resolve("journal"), new SegmentJournal.Limits(1 << 30, 0, 1 << 20, 1), () -> { });
        writer = new DestinationWriter("dest", "Records", journal, Mockito.mock(dachshund.core.destination.RowStore.class), local, book, clock);
    }

    @AfterEach
    void close() {
        writer.close();
        local.close();
    }

    private RecorderRun run(String id, Duration period, SqlType type) {
        Layout layout = Layout.proposed().plus(new Column("v", type, new ColumnSource.FromTag(new TagRef("s", "v"), ColumnSource.Aspect.VALUE), false, BadQuality.WRITE_NULL));
        RecorderDefinition design = new RecorderDefinition(id, id, "", List.of(new When.Every(period)), layout, List.of(new Where("dest", "t", Upkeep.NONE, false)));
        return new RecorderRun(design, new RowId("000001", id, 5, 0, 0), sequence, List.of(new RecorderRun.Target("dest", writer, writer.design(design))), tags,
                ZoneOffset.UTC, book, local);
    }

    /** Moves the clock in steps and serves what is due at each. */
    private void passIn(Duration step, int steps) {
        for (int i = 0; i < steps; i++) {
            clock.pass(step);
            schedule.runDue();
        }
    }

    private List<Instant> journalled() {
        writer.held();
        List<Instant> times = new ArrayList<>();
        org.awaitility.Awaitility.await().until(() -> {
            times.clear();
            Journal.Reader reader = journal.read(0);
            for (Journal.Entry entry = reader.next(); entry != null; entry = reader.next()) {
                times.add(RowCodec.read(entry.bytes(), design -> new RowId("000001", "aaaaaaaa", 5, 0, 0)).row().recordTime());
            }
            return times.size() == writer.held();
        });
        return times;
    }

    @Test
    void rowsCarryTheScheduledInstantNotTheOneTheyWereServedAt() {
        schedule.changeover(Set.of(run("aaaaaaaa", Duration.ofSeconds(1), SqlType.DOUBLE)));
        passIn(Duration.ofMillis(300), 10);
        assertThat(journalled()).containsExactly(Instant.parse("2026-11-24T06:00:01Z"), Instant.parse("2026-11-24T06:00:02Z"), Instant.parse("2026-11-24T06:00:03Z"));
    }

    @Test
    void ticksMoreThanAPeriodLateAreSkippedAndCounted() {
        schedule.changeover(Set.of(run("aaaaaaaa", Duration.ofSeconds(1), SqlType.DOUBLE)));
        passIn(Duration.ofSeconds(1), 2);
        passIn(Duration.ofSeconds(10), 1);
        assertThat(journalled()).hasSize(4).endsWith(Instant.parse("2026-11-24T06:00:11Z"), Instant.parse("2026-11-24T06:00:12Z"));
        Minute minute = book.hour("aaaaaaaa", clock.now()).get(59);
        assertThat(minute.due()).isEqualTo(12);
        assertThat(minute.skipped()).isEqualTo(8);
    }

    @Test
    void aChangeoverDropsNoTickOfAnUnchangedRecorderAndNoneOfAChangedOne() {
        RecorderRun unchanged = run("aaaaaaaa", Duration.ofSeconds(1), SqlType.DOUBLE);
        schedule.changeover(Set.of(unchanged, run("bbbbbbbb", Duration.ofSeconds(1), SqlType.DOUBLE)));
        for (int i = 0; i < 20; i++) {
            clock.pass(Duration.ofMillis(950));
            schedule.changeover(Set.of(unchanged, run("bbbbbbbb", Duration.ofSeconds(1), i % 2 == 0 ? SqlType.BIGINT : SqlType.DOUBLE)));
            schedule.runDue();
        }
        assertThat(book.hour("aaaaaaaa", clock.now()).get(59).due()).isEqualTo(19);
        assertThat(book.hour("bbbbbbbb", clock.now()).get(59).due()).isEqualTo(19);
    }

    @Test
    void aClockSetBackDoesNotSilenceARecorder() {
        schedule.changeover(Set.of(run("aaaaaaaa", Duration.ofSeconds(1), SqlType.DOUBLE)));
        passIn(Duration.ofSeconds(1), 5);
        clock.pass(Duration.ofHours(-1));
        schedule.runDue();
        passIn(Duration.ofSeconds(1), 5);
        assertThat(journalled()).hasSize(10).endsWith(Instant.parse("2026-11-24T05:00:10Z"));
    }

    @Test
    void valuesThatDoNotFitAreSetAsideAndARecorderWithNothingElseStopsItself() {
        tags.offer("s", List.of(new TagChange("v", TagValue.good("PL1-261124", clock.now()))));
        schedule.changeover(Set.of(run("aaaaaaaa", Duration.ofSeconds(1), SqlType.INTEGER)));
        passIn(Duration.ofSeconds(1), 3);
        assertThat(local.setAside("aaaaaaaa", 10)).hasSize(3).allMatch(row -> row.values().contains("PL1-261124"));
        passIn(Duration.ofSeconds(1), RecorderRun.STOP_AFTER_REFUSALS);
        assertThat(stopped).hasSize(1);
        assertThat(local.setAsideCounts().get("aaaaaaaa")).isEqualTo(RecorderRun.STOP_AFTER_REFUSALS);
    }
}
