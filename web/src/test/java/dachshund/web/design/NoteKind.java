package dachshund.web.design;

import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** All that the application knows of notes: this class, and its name among the services. */
public final class NoteKind extends DefinitionKind<NoteDefinition> {

    public NoteKind() {
        super(1000, "NOTE", "Note", "note", NoteDefinition.class);
    }

    @Override
    protected Set<String> things(NoteDefinition note) {
        return Set.of(note.about());
    }

    @Override
    protected List<String> introduced(NoteDefinition note, Named named) {
        return List.of("Says of " + named.name(note.about()) + ": " + note.text() + ".");
    }

    @Override
    protected List<String> removed(NoteDefinition note, Named named) {
        return List.of("Nobody reads it any more.");
    }

    @Override
    protected void changed(NoteDefinition was, NoteDefinition is, Named named, Sentences sentences) {
        sentences.compare("Text", was.text(), is.text());
    }

    @Override
    public Optional<NoteDefinition> duplicate(NoteDefinition of, String id, String name) {
        return Optional.of(new NoteDefinition(id, name, of.description(), of.about(), of.text()));
    }
}
