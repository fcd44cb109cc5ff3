package dachshund.core.kind;

import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.reader.DatabaseDefinition;
import java.util.List;
import java.util.Optional;

/** Read-only databases, as the general parts know them. */
public final class DatabaseKind extends DefinitionKind<DatabaseDefinition> {

    public DatabaseKind() {
        super(55, "DATABASE", "Read-only database", "database", DatabaseDefinition.class);
    }

    @Override
    protected List<String> introduced(DatabaseDefinition database, Named named) {
        return List.of("Tables and views may be read of " + ConnectsTo.words(database.settings()) + ".");
    }

    @Override
    protected List<String> removed(DatabaseDefinition was, Named named) {
        return List.of("Nothing is read there any more.");
    }

    @Override
    protected void changed(DatabaseDefinition was, DatabaseDefinition is, Named named, Sentences sentences) {
        sentences.compare("Kind", was.store(), is.store());
        sentences.settings(was.settings(), is.settings());
    }

    @Override
    public Optional<DatabaseDefinition> duplicate(DatabaseDefinition of, String id, String name) {
        return Optional.of(new DatabaseDefinition(id, name, of.description(), of.store(), of.settings()));
    }
}
