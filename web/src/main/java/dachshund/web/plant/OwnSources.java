package dachshund.web.plant;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.engine.kept.KeptKind;
import dachshund.office.definition.Definitions;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/**
 * The sources that connect to nothing: formulas and kept tags. The first of each kind need not be made by hand: it is there to
 * be filled, and is drafted with its first tag. Looking drafts nothing.
 */
@Component
class OwnSources {

    private static final List<SourceDefinition> EMPTY = List.of(
            empty("f0000001", "Formulas", "Computed from other tags", FormulaTag.LINK),
            empty("f0000002", "Kept", "Values that Dachshund keeps", KeptKind.ID));

    private final Definitions definitions;

    OwnSources(Definitions definitions) {
        this.definitions = definitions;
    }

    private static SourceDefinition empty(String id, String name, String description, String link) {
        return new SourceDefinition(id, name, description, link, Map.of(), Duration.ofSeconds(1), List.of());
    }

    /** The first source of the protocol, or the one that would be it. */
    SourceDefinition first(String link) {
        return Stream.concat(definitions.all(SourceDefinition.class).stream(), EMPTY.stream())
                .filter(each -> each.link().equals(link))
                .findFirst()
                .orElseThrow();
    }

    /** The source as drafted, else as live, else the empty one of this id. */
    Optional<SourceDefinition> find(String id) {
        return definitions
                .find(SourceDefinition.class, id)
                .or(() -> EMPTY.stream().filter(each -> each.id().equals(id)).findFirst());
    }
}
