package dachshund.core.sql;

import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import java.util.List;
import java.util.Optional;

/** One database engine's way of writing things. Pure text; nothing is executed here. */
public interface Dialect {

    /** The engine's name for people. */
    String engine();

    /** Quotes any identifier so that it means exactly itself. */
    String quote(String identifier);

    /** Why the engine cannot take the identifier; empty where it can. */
    Optional<String> identifierProblem(String identifier);

    /** Why the identifier, although possible, will annoy people later; empty where it will not. */
    Optional<String> identifierHint(String identifier);

    /** The engine's own name of a type. */
    String typeName(SqlType type);

    /**
     * Statements that make the table of a layout.
     *
     * @param temporary make a temporary one that only this connection sees
     */
    List<String> createTable(String table, Layout layout, boolean temporary);

    /** A statement that adds a column of a layout to a table; the new column may be NULL in the rows that are there. */
    String addColumn(String table, Column column);

    /** One insert with a parameter per written column of the layout, in their order. */
    String insert(String table, Layout layout);
}
