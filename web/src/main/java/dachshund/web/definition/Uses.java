package dachshund.web.definition;

import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.equipment.PropertySource;
import dachshund.core.formula.FormulaTag;
import dachshund.core.layout.ColumnSource;
import dachshund.core.lineup.LineUp;
import dachshund.core.tag.TagRef;
import java.util.HashSet;
import java.util.Set;

/** What a definition names. */
final class Uses {

    private Uses() {}

    /** Whether the definition names the thing with the id, itself or one of its tags. */
    static boolean names(Definition definition, String id) {
        boolean itself = definition instanceof RecorderDefinition recorder && names(recorder, id)
                || definition instanceof EquipmentDefinition equipment
                        && equipment.equipmentClass().equals(id);
        return itself || tags(definition).stream().anyMatch(tag -> tag.source().equals(id));
    }

    private static boolean names(RecorderDefinition recorder, String id) {
        return recorder.equipment().equals(id)
                || recorder.wheres().stream()
                        .anyMatch(where -> where.destination().equals(id))
                || recorder.follows()
                        .filter(follows -> follows.original().equals(id))
                        .isPresent()
                || recorder.layout().columnsAndFields().stream()
                        .anyMatch(column -> column.from() instanceof ColumnSource.FromProperty from
                                && from.equipment().equals(id));
    }

    /** The tags that the definition names. */
    static Set<TagRef> tags(Definition definition) {
        Set<TagRef> tags = new HashSet<>();
        if (definition instanceof RecorderDefinition recorder) {
            tags.addAll(LineUp.tags(recorder));
        } else if (definition instanceof EquipmentDefinition equipment) {
            equipment.properties().values().forEach(property -> {
                if (property instanceof PropertySource.FromTag from) {
                    tags.add(from.tag());
                }
            });
        } else if (definition instanceof SourceDefinition source
                && source.link().equals(FormulaTag.LINK)) {
            source.tags().forEach(tag -> tags.addAll(FormulaTag.of(tag).inputs().values()));
        }
        return tags;
    }
}
