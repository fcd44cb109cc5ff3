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
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.engine.Engine;
import dachshund.office.audit.Audit;
import dachshund.office.person.Acting;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mockito.ArgumentMatchers;
import org.mockito.Mockito;
import org.springframework.dao.DataAccessResourceFailureException;
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

    /** What our own database holds. */
    private final List<Definition> live = new ArrayList<>();

    private final List<Draft> drafts = new ArrayList<>();
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
                "",
                List.of(),
                false);
    }

    @BeforeEach
    void databaseThatAnswers() {
        live.add(source("Kept tags"));
        when(tables.live()).thenAnswer(asked -> List.copyOf(live));
        when(tables.drafts()).thenAnswer(asked -> List.copyOf(drafts));
        when(tables.newestRelease()).thenAnswer(asked -> release);
        when(tables.changedIn()).thenAnswer(asked -> Map.of("a1", release));
        Mockito.doAnswer(asked -> drafts.add(asked.getArgument(0))).when(tables).insertDraft(any());
        when(engine.sealed(any())).thenAnswer(call -> call.getArgument(0));
        definitions = new Definitions(
                tables, mock(LiveFile.class), engine, mock(Audit.class), mock(Acting.class), () -> NOW, transaction);
        definitions.load();
    }

    /** The database commits the release. */
    private void committed() {
        live.clear();
        drafts.forEach(draft -> live.add(draft.definition().orElseThrow()));
        drafts.clear();
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
            definitions.load();
            definitions.edit(source("Kept tags, edit " + n), definitions.revision("a1"), "engineer");
        }
        go.set(false);
        reader.join();
        assertThat(asked.get()).isGreaterThan(1000);
        assertThat(unknown).hasValue(0);
    }

    @Test
    void aReleaseThatWasCommittedWithoutAnAnswerIsReleased() {
        definitions.edit(source("Renamed"), definitions.revision("a1"), "engineer");
        when(transaction.execute(ArgumentMatchers.<TransactionCallback<Long>>any()))
                .thenAnswer(asked -> {
                    committed();
                    throw new TransactionSystemException("the connection broke at the commit");
                });
        definitions.releaseAll(definitions.fingerprint(), "engineer");
        assertThat(definitions.live("a1").map(Definition::name)).contains("Renamed");
        assertThat(definitions.drafts()).isEmpty();
    }

    @Test
    void aReleaseThatWasNotTakenIsNoRelease() {
        definitions.edit(source("Renamed"), definitions.revision("a1"), "engineer");
        when(transaction.execute(ArgumentMatchers.<TransactionCallback<Long>>any()))
                .thenThrow(new TransactionSystemException("the connection broke before the commit"));
        assertThatThrownBy(() -> definitions.releaseAll(definitions.fingerprint(), "engineer"))
                .hasMessageContaining("before the commit");
        assertThat(definitions.live("a1").map(Definition::name)).contains("Kept tags");
        assertThat(definitions.drafts()).hasSize(1);
    }

    /** Committed, no answer, and then the database is away: what runs follows as soon as it answers. */
    @Test
    void aReleaseWithoutAnAnswerIsLookedUpWhenTheDatabaseIsBack() {
        definitions.edit(source("Renamed"), definitions.revision("a1"), "engineer");
        when(transaction.execute(ArgumentMatchers.<TransactionCallback<Long>>any()))
                .thenAnswer(asked -> {
                    committed();
                    when(tables.live()).thenThrow(new DataAccessResourceFailureException("away"));
                    throw new TransactionSystemException("the connection broke at the commit");
                });
        assertThatThrownBy(() -> definitions.releaseAll(definitions.fingerprint(), "engineer"))
                .hasMessageContaining("at the commit");
        definitions.settle();
        assertThat(definitions.live("a1").map(Definition::name))
                .as("still away")
                .contains("Kept tags");
        Mockito.doAnswer(asked -> List.copyOf(live)).when(tables).live();
        definitions.settle();
        assertThat(definitions.live("a1").map(Definition::name)).contains("Renamed");
        assertThat(definitions.drafts()).isEmpty();
        Mockito.clearInvocations(tables);
        definitions.settle();
        verify(tables, never()).live();
    }

    @Test
    void anEditThatWasTakenWithoutAnAnswerIsThereWhenTheDatabaseIsBack() {
        Mockito.doAnswer(asked -> {
                    drafts.add(asked.getArgument(0));
                    throw new DataAccessResourceFailureException("no answer");
                })
                .when(tables)
                .insertDraft(any());
        assertThatThrownBy(() -> definitions.edit(source("Renamed"), definitions.revision("a1"), "engineer"))
                .hasMessageContaining("no answer");
        assertThat(definitions.drafts()).isEmpty();
        definitions.settle();
        assertThat(definitions.draft("a1").map(Draft::name)).isEqualTo(Optional.of("Renamed"));
    }

    /** What is thrown while the engine follows a committed release does not bring the drafts back. */
    @Test
    void whateverFailsAfterTheCommitWhatWasReleasedIsLive() {
        definitions.edit(source("Renamed"), definitions.revision("a1"), "engineer");
        when(transaction.execute(ArgumentMatchers.<TransactionCallback<Long>>any()))
                .thenAnswer(asked -> {
                    committed();
                    return release;
                });
        doThrow(new IllegalStateException("a defect")).when(engine).changeover(any(), any());
        assertThatThrownBy(() -> definitions.releaseAll(definitions.fingerprint(), "engineer"))
                .hasMessageContaining("a defect");
        assertThat(definitions.live("a1").map(Definition::name)).contains("Renamed");
        assertThat(definitions.drafts()).isEmpty();
    }
}
