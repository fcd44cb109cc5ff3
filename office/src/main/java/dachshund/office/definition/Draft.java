package dachshund.office.definition;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionKind;
import java.time.Instant;
import java.util.Optional;

/**
 * The newest edit of a thing that is not released.
 *
 * @param revision   counts the edits since the last release, from 1
 * @param definition as edited; empty where its removal is drafted
 */
public record Draft(
        String id,
        int revision,
        DefinitionKind<?> kind,
        String name,
        Optional<Definition> definition,
        String by,
        Instant at) {}
