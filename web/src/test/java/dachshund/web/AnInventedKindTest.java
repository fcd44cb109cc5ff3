package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.core.definition.Plant;
import dachshund.engine.Engine;
import dachshund.engine.live.AtWork;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.web.design.NoteDefinition;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import org.junit.jupiter.api.Test;

/** A kind of definition that the application has never heard of lives its whole life by one registration. */
class AnInventedKindTest {

    private static final Site SITE = Site.demo();
    private final Definitions definitions = SITE.bean(Definitions.class);
    private final Drafts drafts = SITE.bean(Drafts.class);
    private final List<NoteDefinition> working = new CopyOnWriteArrayList<>();

    private final AtWork<NoteDefinition> notesAtWork = new AtWork<>() {
        @Override
        public Class<NoteDefinition> type() {
            return NoteDefinition.class;
        }

        @Override
        public void changeover(List<NoteDefinition> live, Plant plant) {
            working.clear();
            working.addAll(live);
        }

        @Override
        public void tryOut(NoteDefinition note, Plant plant) {
            if (note.text().isEmpty()) {
                throw new IllegalArgumentException("it says nothing.");
            }
        }

        @Override
        public String refused(String id) {
            return "";
        }
    };

    private void released(Visitor engineer) throws Exception {
        engineer.release();
        assertThat(definitions.drafts()).isEmpty();
    }

    private List<NoteDefinition> notes() {
        return definitions.all(NoteDefinition.class);
    }

    @Test
    void itIsListedReviewedReleasedWorksIsExportedImportedDuplicatedAndRemoved() throws Exception {
        drafts.discardAll("admin");
        SITE.bean(Engine.class).add(notesAtWork);
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        String dryer = SITE.recorder("Dryer log");
        NoteDefinition note = new NoteDefinition("0a0b0c0d", "Burner", "for the shift", dryer, "Serviced in May");
        drafts.edit(note, 0, "engineer");

        assertThat(engineer.get("/designs?q=may+burner").body()).contains("Nothing here is like that");
        assertThat(engineer.get("/designs?q=note+burner+shift").body())
                .contains("/designs/0a0b0c0d", "Draft only", "unreleased");
        assertThat(engineer.get("/designs/0a0b0c0d").body()).contains("Dryer log", "for the shift", "nothing yet");
        assertThat(engineer.get("/designs/" + dryer).body()).as("used by").contains("Burner");
        assertThat(engineer.get("/release").body())
                .contains("Note Burner", "Says of Dryer log: Serviced in May.")
                .doesNotContain("class=\"must\"");
        released(engineer);
        assertThat(working).containsExactly(note);
        assertThat(engineer.get("/designs?q=burner&who=engineer&kind=NOTE").body())
                .contains("/designs/0a0b0c0d")
                .doesNotContain("unreleased</span>");

        NoteDefinition other = new NoteDefinition(note.id(), "Burner", "for the shift", dryer, "Serviced in June");
        drafts.edit(other, drafts.revision(note.id()), "engineer");
        assertThat(engineer.get("/release").body()).contains("Text from Serviced in May to Serviced in June.");
        released(engineer);
        assertThat(working).containsExactly(other);

        String file = engineer.post("/designs/ticked/export", "id", note.id()).body();
        assertThat(file).contains("\"is\" : \"note\"", "Serviced in June");
        assertThat(engineer.get("/release/export").body()).contains("Serviced in June");

        engineer.post("/designs/ticked/duplicate", "id", note.id());
        assertThat(notes()).extracting(Definition::name).containsExactlyInAnyOrder("Burner", "Burner 2");

        assertThat(engineer.post("/designs/ticked/remove", "id", note.id()).body())
                .as("first what follows")
                .contains("Nobody reads it any more.");
        assertThat(notes()).hasSize(2);
        List<String> fields = new ArrayList<>();
        notes().forEach(each -> fields.addAll(List.of("id", each.id())));
        fields.addAll(List.of("sure", "true"));
        engineer.post("/designs/ticked/remove", fields.toArray(String[]::new));
        assertThat(notes()).isEmpty();
        assertThat(engineer.get("/release").body()).contains("Nobody reads it any more.");
        released(engineer);
        assertThat(working).isEmpty();

        assertThat(engineer.post("/release/import", "text", file.replace("Serviced in June", ""))
                        .body())
                .contains("Note Burner cannot be put to work here: it says nothing.");
        engineer.post("/release/import", "text", file);
        assertThat(notes()).containsExactly(other);
        drafts.discardAll("engineer");
        assertThat(notes()).isEmpty();
    }
}
