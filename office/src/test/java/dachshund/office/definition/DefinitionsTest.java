package dachshund.office.definition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doThrow;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.layout.Layout;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.engine.recorder.Recorders;
import dachshund.office.audit.Audit;
import dachshund.office.filing.Filings;
import dachshund.office.person.Acting;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Consumer;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mockito.ArgumentMatchers;
import org.mockito.InOrder;
import org.mockito.Mockito;
import org.springframework.dao.DataAccessResourceFailureException;
import org.springframework.transaction.TransactionStatus;
import org.springframework.transaction.TransactionSystemException;
import org.springframework.transaction.support.TransactionCallback;
import org.springframework.transaction.support.TransactionTemplate;

/** What is drafted, released and known, while our own database answers late, not at all, or takes a change and cannot say so. */
class DefinitionsTest {

    private static final Instant NOW = Instant.parse("2026-11-26T08:00:00Z");
    private static final TagRef TAG = new TagRef("a1", "t1");

    private final DefinitionTables tables = mock(DefinitionTables.class);
    private final Engine engine = mock(Engine.class);
    private final TransactionTemplate transaction = mock(TransactionTemplate.class);
    private Definitions definitions;
    private Releases releases;
    private Drafts drafts;

    /** What our own database holds. */
    private final List<Definition> live = new ArrayList<>();

    private final List<Draft> kept = new ArrayList<>();
    private long release = 1;

    private static SourceDefinition source(String name) {
        return new SourceDefinition(
                "a1",
                name,
                "",
                "kept",
                Map.of(),
                Duration.ofSeconds(1),
                List.of(new TagInfo("t1", "", "Lot", DataKind.TEXT, "", "", true)),
                false);
    }

    @BeforeEach
    void databaseThatAnswers() {
        live.add(source("Kept tags"));
        when(tables.live()).thenAnswer(asked -> List.copyOf(live));
        when(tables.drafts()).thenAnswer(asked -> List.copyOf(kept));
        when(tables.newestRelease()).thenAnswer(asked -> release);
        when(tables.changedIn()).thenAnswer(asked -> Map.of("a1", release));
        Mockito.doAnswer(asked -> kept.add(asked.getArgument(0))).when(tables).insertDraft(any());
        when(engine.sealed(any())).thenAnswer(call -> call.getArgument(0));
        Mockito.doAnswer(asked -> {
                    asked.<Consumer<TransactionStatus>>getArgument(0).accept(mock(TransactionStatus.class));
                    return null;
                })
                .when(transaction)
                .executeWithoutResult(any());
        Audit audit = mock(Audit.class);
        definitions = new Definitions(engine);
        releases = new Releases(definitions, tables, mock(LiveFile.class), engine, audit, () -> NOW, transaction);
        drafts = new Drafts(
                definitions,
                releases,
                tables,
                engine,
                audit,
                mock(Filings.class),
                mock(Acting.class),
                () -> NOW,
                transaction);
        releases.load();
    }

    /** The database commits the release. */
    private void committed() {
        live.clear();
        kept.forEach(draft -> live.add(draft.definition().orElseThrow()));
        kept.clear();
        release++;
    }

    @Test
    void aTagIsKnownAtEveryMomentOfLoadingAndEditing() throws Exception {
        AtomicBoolean go = new AtomicBoolean(true);
        AtomicLong asked = new AtomicLong();
        AtomicLong unknown = new AtomicLong();
        Thread reader = new Thread(() -> {
            while (go.get()) {
                asked.incrementAndGet();
                if (definitions.tag(TAG).isEmpty()) {
                    unknown.incrementAndGet();
                }
            }
        });
        reader.start();
        for (int n = 0; n < 300; n++) {
            releases.load();
            drafts.edit(source("Kept tags, edit " + n), drafts.revision("a1"), "engineer");
        }
        go.set(false);
        reader.join();
        assertThat(asked.get()).isGreaterThan(1000);
        assertThat(unknown).hasValue(0);
    }

    @Test
    void aReleaseThatWasCommittedWithoutAnAnswerIsReleased() {
        drafts.edit(source("Renamed"), drafts.revision("a1"), "engineer");
        when(transaction.execute(ArgumentMatchers.<TransactionCallback<Long>>any()))
                .thenAnswer(asked -> {
                    committed();
                    throw new TransactionSystemException("the connection broke at the commit");
                });
        releases.releaseAll(releases.fingerprint(), "engineer");
        assertThat(definitions.live("a1").map(Definition::name)).contains("Renamed");
        assertThat(definitions.drafts()).isEmpty();
    }

    @Test
    void aReleaseThatWasNotTakenIsNoRelease() {
        drafts.edit(source("Renamed"), drafts.revision("a1"), "engineer");
        when(transaction.execute(ArgumentMatchers.<TransactionCallback<Long>>any()))
                .thenThrow(new TransactionSystemException("the connection broke before the commit"));
        assertThatThrownBy(() -> releases.releaseAll(releases.fingerprint(), "engineer"))
                .hasMessageContaining("before the commit");
        assertThat(definitions.live("a1").map(Definition::name)).contains("Kept tags");
        assertThat(definitions.drafts()).hasSize(1);
    }

    /** Committed, no answer, and then the database is away: what runs follows as soon as it answers. */
    @Test
    void aReleaseWithoutAnAnswerIsLookedUpWhenTheDatabaseIsBack() {
        drafts.edit(source("Renamed"), drafts.revision("a1"), "engineer");
        when(transaction.execute(ArgumentMatchers.<TransactionCallback<Long>>any()))
                .thenAnswer(asked -> {
                    committed();
                    when(tables.live()).thenThrow(new DataAccessResourceFailureException("away"));
                    throw new TransactionSystemException("the connection broke at the commit");
                });
        assertThatThrownBy(() -> releases.releaseAll(releases.fingerprint(), "engineer"))
                .hasMessageContaining("at the commit");
        releases.settle();
        assertThat(definitions.live("a1").map(Definition::name))
                .as("still away")
                .contains("Kept tags");
        Mockito.doAnswer(asked -> List.copyOf(live)).when(tables).live();
        releases.settle();
        assertThat(definitions.live("a1").map(Definition::name)).contains("Renamed");
        assertThat(definitions.drafts()).isEmpty();
        Mockito.clearInvocations(tables);
        releases.settle();
        verify(tables, never()).live();
    }

    @Test
    void anEditThatWasTakenWithoutAnAnswerIsThereWhenTheDatabaseIsBack() {
        Mockito.doAnswer(asked -> {
                    kept.add(asked.getArgument(0));
                    throw new DataAccessResourceFailureException("no answer");
                })
                .when(tables)
                .insertDraft(any());
        assertThatThrownBy(() -> drafts.edit(source("Renamed"), drafts.revision("a1"), "engineer"))
                .hasMessageContaining("no answer");
        assertThat(definitions.drafts()).isEmpty();
        releases.settle();
        assertThat(definitions.draft("a1").map(Draft::name)).isEqualTo(Optional.of("Renamed"));
    }

    /** What broke off is said to whoever drafted it, and is no reason never to look at the source. */
    @Test
    void aSourceThatCouldNotBeLookedAtIsLookedAtAtTheNextEdit() {
        doThrow(new IllegalStateException("the local disk"))
                .doNothing()
                .when(engine)
                .look(any());
        SourceDefinition fresh =
                new SourceDefinition("a2", "New", "", "kept", Map.of(), Duration.ofSeconds(1), List.of());
        assertThatThrownBy(() -> drafts.edit(fresh, 0, "engineer")).hasMessageContaining("the local disk");
        assertThat(definitions.find("a2")).contains(fresh);
        Mockito.clearInvocations(engine);
        drafts.edit(note("n1"), 0, "engineer");
        verify(engine).look(any());
        Mockito.clearInvocations(engine);
        drafts.edit(note("n2"), 0, "engineer");
        verify(engine, never()).look(any());
    }

    private static Definition note(String id) {
        return new DestinationDefinition(id, "Files " + id, "", "folder", Map.of());
    }

    /** A stop that was made for a release is taken back where the release is none, whatever kept it from being one. */
    @Test
    void aRecorderThatWasToBeReleasedStoppedIsNotLeftStoppedWhereNothingWasReleased() {
        Recorders recorders = mock(Recorders.class);
        when(engine.recorders()).thenReturn(recorders);
        RecorderDefinition fresh =
                new RecorderDefinition("0000000a", "Fresh", "", List.of(), Layout.proposed(), List.of());
        drafts.edit(fresh, 0, "engineer");
        when(transaction.execute(ArgumentMatchers.<TransactionCallback<Long>>any()))
                .thenThrow(new IllegalStateException("a defect"));
        Set<String> it = Set.of("0000000a");
        assertThatThrownBy(() -> releases.release(it, it, releases.fingerprint(), "engineer", Progress.UNHEARD))
                .hasMessageContaining("a defect");
        assertThat(definitions.live("0000000a")).isEmpty();
        InOrder order = Mockito.inOrder(recorders);
        order.verify(recorders).stop("0000000a", "engineer", "released stopped");
        order.verify(recorders).start("0000000a");
    }

    /** What is thrown while the engine follows a committed release does not bring the drafts back. */
    @Test
    void whateverFailsAfterTheCommitWhatWasReleasedIsLive() {
        drafts.edit(source("Renamed"), drafts.revision("a1"), "engineer");
        when(transaction.execute(ArgumentMatchers.<TransactionCallback<Long>>any()))
                .thenAnswer(asked -> {
                    committed();
                    return release;
                });
        doThrow(new IllegalStateException("a defect")).when(engine).changeover(any(), any(), any());
        assertThatThrownBy(() -> releases.releaseAll(releases.fingerprint(), "engineer"))
                .hasMessageContaining("a defect");
        assertThat(definitions.live("a1").map(Definition::name)).contains("Renamed");
        assertThat(definitions.drafts()).isEmpty();
    }
}
