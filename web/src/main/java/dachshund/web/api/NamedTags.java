package dachshund.web.api;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.TagRef;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import java.util.NoSuchElementException;
import org.springframework.stereotype.Component;

/** Tags as programs name them: by the id or name of their source, and their address there. */
@Component
class NamedTags {

    private final Definitions definitions;
    private final TagFinder finder;

    NamedTags(Definitions definitions, TagFinder finder) {
        this.definitions = definitions;
        this.finder = finder;
    }

    String source(String idOrName) {
        return definitions.all(SourceDefinition.class).stream()
                .filter(source -> source.id().equals(idOrName) || source.name().equalsIgnoreCase(idOrName))
                .map(SourceDefinition::id)
                .findFirst()
                .orElseThrow(() -> new NoSuchElementException("There is no source " + idOrName + "."));
    }

    FoundTag find(String source, String address) {
        if (source == null || source.isBlank() || address == null || address.isBlank()) {
            throw new IllegalArgumentException("A tag is named by source and address.");
        }
        return finder.find(new TagRef(source(source), address))
                .orElseThrow(() -> new NoSuchElementException(
                        "The source " + source + " has no tag with the address " + address + "."));
    }
}
