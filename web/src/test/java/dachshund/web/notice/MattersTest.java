package dachshund.web.notice;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doReturn;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Upkeep;
import dachshund.core.notice.Matter;
import dachshund.core.notice.Sort;
import dachshund.core.source.LinkState;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.Engine;
import dachshund.engine.clock.ClockDoubt;
import dachshund.engine.destination.OldRows;
import dachshund.engine.lane.Account;
import dachshund.engine.lane.LaneState;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.local.Intents;
import dachshund.engine.local.LocalStore;
import dachshund.engine.recorder.RecorderStatus;
import dachshund.engine.source.SourceRun;
import dachshund.engine.source.Sources;
import dachshund.engine.transaction.OldMarks;
import dachshund.engine.transaction.TransactionStatus;
import dachshund.engine.transaction.Transactions;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.filing.Filed;
import dachshund.office.filing.Filings;
import dachshund.web.certificate.Authorities;
import dachshund.web.tls.PagesTls;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What each part knows becomes a matter with a sentence; in a healthy plant nothing does. */
class MattersTest {

    private static final Instant BEGIN = Instant.parse("2026-11-27T06:00:00Z");
    private static final RecorderDefinition DRYER = new RecorderDefinition(
            "c0000001",
            "Dryer",
            "",
            "e0000001",
            List.of(),
            Optional.empty(),
            Layout.proposed(),
            List.of(),
            Optional.empty());
    private static final SourceDefinition METERS =
            new SourceDefinition("a0000001", "Meters", "", "modbus", Map.of(), Duration.ofSeconds(1), List.of(), false);

    @TempDir
    Path folder;

    private final Engine engine = mock(Engine.class);
    private final Sources sources = mock(Sources.class);
    private final Transactions transactions = mock(Transactions.class);
    private final Definitions definitions = mock(Definitions.class);
    private final Filings filings = mock(Filings.class);
    private final OpcUaTrust trust = mock(OpcUaTrust.class);
    private final PagesTls tls = mock(PagesTls.class);
    private final Audit audit = mock(Audit.class);
    private final Authorities authorities = mock(Authorities.class);
    private volatile Instant now = BEGIN;
    private LocalStore local;

    @BeforeEach
    void healthy() {
        local = new LocalStore(folder.resolve("local.db"));
        when(engine.local()).thenReturn(local);
        when(engine.clock()).thenReturn(() -> now);
        when(engine.folder()).thenReturn(folder);
        when(engine.sources()).thenReturn(sources);
        when(engine.lanes()).thenReturn(List.of());
        when(engine.transactions()).thenReturn(transactions);
        when(engine.status()).thenReturn(Map.of());
        when(definitions.live(any())).thenReturn(Optional.empty());
        when(filings.of(any())).thenReturn(Filed.NOWHERE);
        when(filings.of("a0000001")).thenReturn(new Filed("Energy", List.of("meters")));
        when(definitions.live("c0000001")).thenReturn(Optional.of(DRYER));
        when(definitions.live("a0000001")).thenReturn(Optional.of(METERS));
        when(definitions.find(EquipmentDefinition.class, "e0000001"))
                .thenReturn(Optional.of(new EquipmentDefinition("e0000001", "Dryer 1", "", "", "Hall 2", Map.of())));
        when(trust.describeOwn()).thenReturn(seen(BEGIN.plus(Duration.ofDays(900)), true));
        when(tls.until()).thenReturn(Instant.MAX);
        when(audit.checked()).thenReturn(new Audit.Checked(BEGIN, 5, 0, ""));
    }

    @AfterEach
    void close() {
        local.close();
    }

    private static OpcUaTrust.Seen seen(Instant until, boolean trusted) {
        return new OpcUaTrust.Seen("f", "s", "CN=server", "CN=server", BEGIN, until, trusted);
    }

    private List<Matter> matters() {
        return new Matters(engine, definitions, filings, trust, tls, authorities, audit)
                .all().stream().flatMap(each -> each.get().stream()).toList();
    }

    private Matter only() {
        List<Matter> all = matters();
        assertThat(all).hasSize(1);
        return all.get(0);
    }

    @Test
    void inAHealthyPlantNothingNeedsAnybody() {
        assertThat(matters()).isEmpty();
    }

    @Test
    void aDestinationThatDoesNotTakeRowsIsOneMatterForAllItsRecorders() {
        when(engine.lanes())
                .thenReturn(List.of(
                        lane("c0000001", LaneState.HOLDING, 7, BEGIN.minusSeconds(60)),
                        lane("c0000002", LaneState.HOLDING, 5, BEGIN.minusSeconds(90)),
                        lane("c0000003", LaneState.RECORDING, 0, BEGIN)));
        assertThat(only()).satisfies(matter -> {
            assertThat(matter.sort()).isEqualTo(Sort.HELD);
            assertThat(matter.sentence()).contains("It is away. 12 rows of 2 recorders are held");
            assertThat(matter.since()).isEqualTo(BEGIN.minusSeconds(90));
        });
    }

    private static LaneStatus lane(String recorder, LaneState state, long held, Instant since) {
        return new LaneStatus(
                recorder,
                "b0000001",
                state,
                "It is away.",
                since,
                held,
                0,
                0,
                BEGIN,
                new Account(0, 0, 0, 0, 0, 0, 0, 0, 0));
    }

    @Test
    void aFaultedRecorderIsAnAlarmInTheFolderOfItsEquipment() {
        when(engine.status())
                .thenReturn(Map.of(
                        "c0000001",
                        new RecorderStatus(
                                DRYER,
                                LaneState.FAULTED,
                                "The table is gone.",
                                BEGIN,
                                3,
                                0,
                                BEGIN,
                                Duration.ZERO,
                                List.of())));
        assertThat(only()).satisfies(matter -> {
            assertThat(matter.sort().alarm()).isTrue();
            assertThat(matter.thing()).isEqualTo("Dryer");
            assertThat(matter.folder()).isEqualTo("Hall 2");
            assertThat(matter.sentence()).isEqualTo("The table is gone. 3 rows wait on disk.");
        });
    }

    /** Rows that stay beyond their age need somebody, unless the next night goes on with them. */
    @Test
    void oldRowsThatAreNotRemovedAreAMatterOfTheirRecorder() {
        RecorderDefinition keeping = new RecorderDefinition(
                "c0000001",
                "Dryer",
                "",
                List.of(),
                Layout.proposed(),
                List.of(new RecorderDefinition.Where("b0000001", "t", new Upkeep(true, true, 30, true), false)));
        when(engine.status())
                .thenReturn(Map.of(
                        "c0000001",
                        new RecorderStatus(
                                keeping, LaneState.RECORDING, "", BEGIN, 0, 0, BEGIN, Duration.ZERO, List.of())));
        when(engine.oldRows("c0000001", "b0000001"))
                .thenReturn(Optional.of(new OldRows.Removed(BEGIN, 0, 0, "2 are set aside.")));
        assertThat(only()).satisfies(matter -> {
            assertThat(matter.sort()).isEqualTo(Sort.OLD_ROWS);
            assertThat(matter.sentence()).isEqualTo("Rows older than 30 days stay. 2 are set aside.");
        });
        when(engine.oldRows("c0000001", "b0000001")).thenReturn(Optional.of(new OldRows.Removed(BEGIN, 0, 5, "")));
        assertThat(matters()).isEmpty();
    }

    @Test
    void oldMarksThatAreNotRemovedAreAMatterOfTheirTransaction() {
        TransactionDefinition ticket = TransactionDefinition.begun("d0000001", "Ticket", "b0000001");
        when(transactions.all()).thenReturn(List.of(ticket));
        when(engine.oldMarks(ticket)).thenReturn(List.of(new OldMarks.Removed(BEGIN, 7, "It may not.")));
        assertThat(only()).satisfies(matter -> {
            assertThat(matter.sort()).isEqualTo(Sort.OLD_ROWS);
            assertThat(matter.thing()).isEqualTo("Ticket");
            assertThat(matter.sentence()).isEqualTo("Marks older than 400 days stay. It may not.");
        });
        when(engine.oldMarks(ticket)).thenReturn(List.of(new OldMarks.Removed(BEGIN, 7, "")));
        assertThat(matters()).isEmpty();
    }

    @Test
    void triggersThatWaitForNobodyAreAMatterUntilTheyAreDone() {
        TransactionDefinition ticket = TransactionDefinition.begun("d0000001", "Ticket", "b0000001");
        Map<String, Integer> waiting = Map.of("d0000001", 3, "d0000002", 1);
        when(transactions.waitingForNone()).thenAnswer(asked -> new TreeMap<>(waiting));
        doReturn(Optional.of(ticket)).when(definitions).find("d0000001");
        // The other was stopped by a person, who knows.
        when(definitions.live("d0000002")).thenReturn(Optional.of(ticket));
        assertThat(only()).satisfies(matter -> {
            assertThat(matter.sort()).isEqualTo(Sort.WAITING);
            assertThat(matter.thing()).isEqualTo("Ticket");
            assertThat(matter.sentence()).startsWith("3 triggers wait on disk, and it is not released any more.");
            assertThat(matter.since()).isEqualTo(engine.clock().now());
        });
        when(transactions.waitingForNone()).thenReturn(new TreeMap<>());
        assertThat(matters()).isEmpty();
    }

    @Test
    void aTransactionThatFailsOrThatNobodyKnowsOfIsAnAlarm() {
        TransactionDefinition ticket = TransactionDefinition.begun("d0000001", "Ticket", "");
        when(definitions.live("d0000001")).thenReturn(Optional.of(ticket));
        when(transactions.all()).thenReturn(List.of(ticket));
        when(transactions.status("d0000001"))
                .thenReturn(Optional.of(status(ticket, LaneState.FAULTED, "No route.", List.of())));
        assertThat(only()).satisfies(matter -> {
            assertThat(matter.sort().alarm()).isTrue();
            assertThat(matter.thing()).isEqualTo("Ticket");
            assertThat(matter.sentence()).isEqualTo("No route.");
            assertThat(matter.since()).isEqualTo(BEGIN.minusSeconds(5));
        });
        when(transactions.status("d0000001"))
                .thenReturn(Optional.of(
                        status(ticket, LaneState.RECORDING, "", List.of(new Intents.Intent("d0000001", "7", BEGIN)))));
        assertThat(only().sentence()).startsWith("It is not known whether 1 of its requests");
        when(transactions.status("d0000001"))
                .thenReturn(Optional.of(status(ticket, LaneState.RECORDING, "", List.of())));
        assertThat(matters()).isEmpty();
    }

    private static TransactionStatus status(
            TransactionDefinition of, LaneState state, String sentence, List<Intents.Intent> uncertain) {
        return new TransactionStatus(of, state, sentence, 0, 0, BEGIN.minusSeconds(5), uncertain, List.of());
    }

    @Test
    void aRecorderThatStoppedItselfIsToldAndOneThatAPersonStoppedIsNot() {
        local.stop("c0000001", new LocalStore.Stop("engineer", BEGIN, "cleaning"));
        assertThat(matters()).isEmpty();
        local.start("c0000001");
        local.stop("c0000001", new LocalStore.Stop("itself", BEGIN, "1000 rows in a row did not fit"));
        assertThat(only().sentence()).contains("stopped itself because 1000 rows in a row did not fit");
    }

    @Test
    void rowsThatAreSetAsideAreOneMatterWithSinceWhenTheyWere() {
        for (String row : List.of("r1", "r2")) {
            local.aside().keep("c0000001", "b0000001", row, BEGIN, List.of("n"), List.of("1"), "too large", BEGIN);
        }
        assertThat(only().sentence()).startsWith("2 rows that its destination refused are set aside.");
        assertThat(only().since()).isEqualTo(BEGIN);
    }

    @Test
    void aLiveSourceThatDoesNotAnswerIsSilentAndAPausedOneIsNot() {
        SourceRun run = mock(SourceRun.class);
        when(run.definition()).thenReturn(METERS);
        when(sources.all()).thenReturn(List.of(run));
        when(run.status()).thenReturn(new SourceRun.Status(LinkState.AWAY, BEGIN, "Nothing answered."));
        assertThat(only()).satisfies(matter -> {
            assertThat(matter.sort()).isEqualTo(Sort.SILENT);
            assertThat(matter.folder()).isEqualTo("Energy");
            assertThat(matter.labels()).containsExactly("meters");
        });
        when(run.status()).thenReturn(new SourceRun.Status(LinkState.PAUSED, BEGIN, ""));
        assertThat(matters()).isEmpty();
        when(run.status()).thenReturn(new SourceRun.Status(LinkState.CONNECTED, BEGIN, ""));
        assertThat(matters()).isEmpty();
    }

    @Test
    void ourOwnCertificateThatCannotBeReadIsToldAndHidesNoOther() {
        when(trust.describeOwn()).thenThrow(new IllegalStateException("Our own certificate cannot be read."));
        when(tls.until()).thenReturn(BEGIN.plus(Duration.ofDays(20)));
        assertThat(matters())
                .anyMatch(matter -> matter.sentence().equals("Our own certificate cannot be read."))
                .anyMatch(matter -> matter.sentence().startsWith("The certificate for the pages ends on"));
    }

    @Test
    void certificatesThatEndWithinAMonthAreTold() {
        when(tls.until()).thenReturn(BEGIN.plus(Duration.ofDays(20)));
        when(trust.seen())
                .thenReturn(List.of(
                        seen(BEGIN.plus(Duration.ofDays(5)), true),
                        seen(BEGIN.plus(Duration.ofDays(5)), false),
                        seen(BEGIN.plus(Duration.ofDays(40)), true)));
        assertThat(matters())
                .hasSize(2)
                .allMatch(matter -> matter.sort() == Sort.ENDS)
                .anyMatch(matter -> matter.sentence().startsWith("The certificate for the pages ends on 2026-12-17"))
                .anyMatch(matter -> matter.sentence().startsWith("The certificate for OPC UA, CN=server ends on"));
        when(tls.until()).thenReturn(BEGIN.minusSeconds(1));
        assertThat(matters()).anyMatch(matter -> matter.sentence().contains("the pages has ended on"));
    }

    @Test
    void aTimeInWhichNothingRanIsToldForAWhileAndARestartIsNot() {
        local.remember("alive", BEGIN.minusSeconds(40).toString());
        assertThat(matters()).as("a restart").isEmpty();
        local.remember("alive", BEGIN.minusSeconds(7200).toString());
        assertThat(only()).satisfies(matter -> {
            assertThat(matter.sort().once()).isTrue();
            assertThat(matter.sentence()).contains("from 2026-11-27T04:00:00Z to 2026-11-27T06:00:00Z");
        });
        assertThat(local.remembered("alive")).as("it is known that it runs now").hasValue(BEGIN.toString());
    }

    @Test
    void aClockThatIsDoubtedIsToldWithWhatStays() {
        when(engine.clockDoubt())
                .thenReturn(
                        Optional.of(new ClockDoubt.Doubt(BEGIN, BEGIN.plus(ClockDoubt.LASTS), Duration.ofDays(3653))));
        assertThat(only()).satisfies(matter -> {
            assertThat(matter.sort()).isEqualTo(Sort.OLD_ROWS);
            assertThat(matter.sentence())
                    .contains("The clock of this machine moved by", "Nothing is removed for its age");
        });
    }

    @Test
    void anAuditThatIsNotWholeIsAnAlarm() {
        when(audit.checked()).thenReturn(new Audit.Checked(BEGIN, 5, 0, "Entry 4 is missing."));
        assertThat(only()).satisfies(matter -> {
            assertThat(matter.sort().alarm()).isTrue();
            assertThat(matter.sentence()).isEqualTo("Entry 4 is missing.");
        });
    }

    @Test
    void aDiskThatRunsLowIsAnAlarm() {
        Path full = mock(Path.class);
        java.io.File disk = mock(java.io.File.class);
        when(full.toFile()).thenReturn(disk);
        when(disk.getUsableSpace()).thenReturn(1L << 30);
        when(engine.folder()).thenReturn(full);
        assertThat(only().sentence()).contains("has 1024 MB left");
        when(disk.getUsableSpace()).thenReturn(0L);
        assertThat(matters()).as("not known is not low").isEmpty();
    }
}
