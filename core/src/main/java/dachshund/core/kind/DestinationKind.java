package dachshund.core.kind;

import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import java.util.List;
import java.util.Optional;

/** Destinations, as the general parts know them. */
public final class DestinationKind extends DefinitionKind<DestinationDefinition> {

    public DestinationKind() {
        super(50, "DESTINATION", "Destination", "destination", DestinationDefinition.class);
    }

    @Override
    protected List<String> introduced(DestinationDefinition destination, Named named) {
        return List.of("Rows may go to " + ConnectsTo.words(destination.settings()) + ".");
    }

    @Override
    protected List<String> removed(DestinationDefinition was, Named named) {
        return List.of("Nothing is written there any more.");
    }

    @Override
    protected void changed(DestinationDefinition was, DestinationDefinition is, Named named, Sentences sentences) {
        sentences.compare("Kind", was.store(), is.store());
        sentences.settings(was.settings(), is.settings());
    }

    @Override
    public Optional<DestinationDefinition> duplicate(DestinationDefinition of, String id, String name) {
        return Optional.of(new DestinationDefinition(id, name, of.description(), of.store(), of.settings()));
    }
}
