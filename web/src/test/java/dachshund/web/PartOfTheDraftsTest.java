package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.engine.lane.LaneState;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.definition.Releases;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What one engineer has not finished keeps nobody else's work from being released, and is not thrown away with it. */
class PartOfTheDraftsTest {

    private static final Site SITE = Site.demo();
    private static Definitions definitions;
    private static Releases releases;
    private static Drafts drafts;
    private static Visitor engineer;

    private static final DestinationDefinition FILES = new DestinationDefinition(
            "0f000001", "Part files", "", "folder", Map.of("folder", "part", "format", "csv"));
    private static final RecorderDefinition READY = recorder("0f000002", "Part ready", "0f000001");
    private static final RecorderDefinition HALF = recorder("0f000003", "Part half");

    private static RecorderDefinition recorder(String id, String name, String... destinations) {
        return new RecorderDefinition(
                id,
                name,
                "",
                List.of(new When.Every(Duration.ofHours(1))),
                Layout.proposed()
                        .plus(Column.of(
                                "level",
                                SqlType.DOUBLE,
                                new ColumnSource.FromTag(anyTag(), ColumnSource.Aspect.VALUE))),
                List.of(destinations).stream()
                        .map(each -> new Where(each, "part.csv", new Upkeep(true, true), false))
                        .toList());
    }

    private static TagRef anyTag() {
        return SITE.bean(Definitions.class).all(SourceDefinition.class).stream()
                .filter(source -> !source.tags().isEmpty())
                .map(source -> new TagRef(source.id(), source.tags().get(0).address()))
                .findFirst()
                .orElseThrow();
    }

    @BeforeAll
    static void signIn() throws Exception {
        definitions = SITE.bean(Definitions.class);
        releases = SITE.bean(Releases.class);
        drafts = SITE.bean(Drafts.class);
        engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
    }

    @BeforeEach
    void draft() {
        drafts.discardAll("test");
        drafts.edit(HALF, drafts.revision(HALF.id()), "somebody");
    }

    @AfterEach
    void leave() {
        drafts.discardAll("test");
        List<String> made = List.of(FILES.id(), READY.id()).stream()
                .filter(id -> definitions.find(id).isPresent())
                .toList();
        if (made.isEmpty()) {
            return;
        }
        drafts.removeAll(made, "test");
        releases.releaseAll(releases.fingerprint(), "test");
    }

    private static String release(String... ids) throws Exception {
        List<String> fields = new ArrayList<>(List.of("fingerprint", releases.fingerprint(), "part", "true"));
        for (String id : ids) {
            fields.addAll(List.of("id", id));
        }
        return post("/release", fields.toArray(String[]::new));
    }

    /** The page that the answer leads to: what is said there once is read, and not met by the next test. */
    private static String post(String path, String... fields) throws Exception {
        HttpResponse<String> answer = engineer.post(path, fields);
        return engineer.get(
                        answer.headers().firstValue("Location").orElseThrow().replaceFirst("^https?://[^/]+", ""))
                .body();
    }

    private static List<String> drafted() {
        return definitions.drafts().stream().map(each -> each.name()).sorted().toList();
    }

    @Test
    void whatIsTickedGoesWithWhatItNeedsAndTheRestStays() throws Exception {
        drafts.edit(FILES, drafts.revision(FILES.id()), "engineer");
        drafts.edit(READY, drafts.revision(READY.id()), "engineer");
        assertThat(engineer.get("/release").body())
                .contains("Release 2 changes", "by somebody", "It has no destination");
        assertThat(release()).contains("nothing is ticked");
        assertThat(release(HALF.id(), READY.id())).contains("Nothing was released", "Part half: It has no destination");
        assertThat(drafted()).hasSize(3);
        assertThat(release(READY.id())).contains("is live. With it went what it needs: Part files. One draft stays.");
        assertThat(definitions.live(READY.id())).contains(READY);
        assertThat(definitions.live(FILES.id()).map(Definition::name)).contains("Part files");
        assertThat(definitions.live(HALF.id())).isEmpty();
        assertThat(drafted()).containsExactly("Part half");
        releases.load();
        assertThat(drafted()).as("as our own database has it").containsExactly("Part half");
        assertThat(definitions.live(READY.id())).contains(READY);
    }

    @Test
    void aNewRecorderIsReleasedStoppedAndMakesNoRowBeforeSomebodyStartsIt() throws Exception {
        drafts.edit(FILES, drafts.revision(FILES.id()), "engineer");
        RecorderDefinition fast = READY.withWhens(List.of(new When.Every(Duration.ofMillis(100))));
        drafts.edit(fast, drafts.revision(READY.id()), "engineer");
        assertThat(engineer.get("/release").body()).contains("stays stopped until somebody starts it");
        assertThat(post(
                        "/release",
                        "fingerprint",
                        releases.fingerprint(),
                        "part",
                        "true",
                        "id",
                        READY.id(),
                        "stopped",
                        READY.id()))
                .contains("is live.");
        Engine engine = SITE.bean(Engine.class);
        assertThat(definitions.live(READY.id())).contains(fast);
        assertThat(engine.status().get(READY.id()).state()).isEqualTo(LaneState.STOPPED);
        assertThat(engine.status().get(READY.id()).sentence()).contains("released stopped");
        Thread.sleep(500);
        assertThat(engine.status().get(READY.id()).lanes())
                .allMatch(lane -> lane.account().offered() == 0);
        assertThat(SITE.audit()).anyMatch(entry -> entry.contains("stopped a recorder: Part ready: released stopped"));
        engineer.post("/records/" + READY.id() + "/start");
        soon(() -> engine.status().get(READY.id()).lanes().stream()
                .anyMatch(lane -> lane.account().offered() > 0));
        // What is live already is not stopped by a release of its next design.
        drafts.edit(READY, drafts.revision(READY.id()), "engineer");
        post(
                "/release",
                "fingerprint",
                releases.fingerprint(),
                "part",
                "true",
                "id",
                READY.id(),
                "stopped",
                READY.id());
        assertThat(engine.status().get(READY.id()).state()).isNotEqualTo(LaneState.STOPPED);
    }

    @Test
    void whatIsNeededStillCannotGoAlone() throws Exception {
        drafts.edit(FILES, drafts.revision(FILES.id()), "engineer");
        drafts.edit(READY, drafts.revision(READY.id()), "engineer");
        release(READY.id());
        drafts.removeAll(List.of(FILES.id(), READY.id()), "engineer");
        assertThat(release(FILES.id())).contains("Part files: It is still used by Part ready.");
        assertThat(release(FILES.id(), READY.id())).contains("is live. One draft stays.");
        assertThat(definitions.live(FILES.id())).isEmpty();
    }

    @Test
    void aTagThatOneStillUsesCannotBeTakenFromItWhileWhatDoesWithoutItWaits() throws Exception {
        TagInfo load = new TagInfo("load", "", "Load", DataKind.NUMBER, "", "", false)
                .withHow(Map.of(FormulaTag.FORMULA, "1 + 1", FormulaTag.INPUTS, ""));
        SourceDefinition formulas = new SourceDefinition(
                "0f000005", "Part formulas", "", FormulaTag.LINK, Map.of(), Duration.ofSeconds(1), List.of(load));
        RecorderDefinition user = READY.withLayout(Layout.proposed()
                .plus(Column.of(
                        "load",
                        SqlType.DOUBLE,
                        new ColumnSource.FromTag(new TagRef(formulas.id(), "load"), ColumnSource.Aspect.VALUE))));
        drafts.editAll(List.of(FILES, formulas, user), "engineer");
        assertThat(release(user.id())).contains("is live.");
        drafts.editAll(List.of(formulas.withTags(List.of()), READY), "engineer");
        assertThat(release(formulas.id()))
                .contains(
                        "Part formulas: Part ready uses the tag Load, which would be gone. If its draft does without");
        assertThat(definitions.live(formulas.id())).contains(formulas);
        assertThat(release(formulas.id(), READY.id())).contains("is live.");
        drafts.removeAll(List.of(formulas.id()), "test");
        releases.release(Set.of(formulas.id()), releases.fingerprint(), "test");
    }

    @Test
    void aNameThatAnotherOneStillHasIsNotTakenBeforeThatOneGivesItUp() throws Exception {
        drafts.edit(FILES, drafts.revision(FILES.id()), "engineer");
        drafts.edit(READY, drafts.revision(READY.id()), "engineer");
        release(READY.id());
        drafts.edit(READY.withName("Part of before"), drafts.revision(READY.id()), "engineer");
        RecorderDefinition next = recorder("0f000004", "Part ready", FILES.id());
        drafts.edit(next, 0, "engineer");
        assertThat(release(next.id())).contains("There would be two of this name.");
        assertThat(release(next.id(), READY.id())).contains("is live.");
        drafts.removeAll(List.of(next.id()), "test");
        releases.release(Set.of(next.id()), releases.fingerprint(), "test");
    }

    @Test
    void onlyWhatIsTickedIsThrownAway() throws Exception {
        drafts.edit(READY.withName("Part other"), drafts.revision(READY.id()), "engineer");
        post("/release/discard", "part", "true", "id", HALF.id());
        assertThat(drafted()).containsExactly("Part other");
        post("/release/discard", "part", "true");
        assertThat(drafted()).containsExactly("Part other");
        post("/release/discard");
        assertThat(drafted()).isEmpty();
    }
}
