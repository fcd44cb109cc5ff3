package dachshund.core.definition;

import dachshund.core.layout.Layout;
import dachshund.core.layout.Upkeep;
import dachshund.core.when.When;
import java.util.List;

/** A recorder: one or more Whens, one Row, one or more Wheres. */
public record RecorderDefinition(String id, String name, String description, List<When> whens, Layout layout,
                                 List<Where> wheres) implements Definition {

    /**
     * @param destination id of the destination
     * @param table       name of the table there
     * @param upkeep      what the recorder may do to the table
     * @param mark        whether it keeps a delivery mark in the same database
     */
    public record Where(String destination, String table, Upkeep upkeep, boolean mark) {
    }

    public RecorderDefinition {
        whens = List.copyOf(whens);
        wheres = List.copyOf(wheres);
    }

    @Override
    public Kind kind() {
        return Kind.RECORDER;
    }

    public RecorderDefinition withName(String other) {
        return new RecorderDefinition(id, other, description, whens, layout, wheres);
    }

    public RecorderDefinition withWhens(List<When> other) {
        return new RecorderDefinition(id, name, description, other, layout, wheres);
    }

    public RecorderDefinition withLayout(Layout other) {
        return new RecorderDefinition(id, name, description, whens, other, wheres);
    }

    public RecorderDefinition withWheres(List<Where> other) {
        return new RecorderDefinition(id, name, description, whens, layout, other);
    }
}
