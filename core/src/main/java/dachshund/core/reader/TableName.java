package dachshund.core.reader;

/**
 * A table or view of a database.
 *
 * @param schema where it lies, as its engine calls it; empty where the engine knows none
 */
public record TableName(String schema, String name) implements Comparable<TableName> {

    /** As people write it. */
    public String words() {
        return schema.isEmpty() ? name : schema + "." + name;
    }

    @Override
    public int compareTo(TableName other) {
        int bySchema = schema.compareToIgnoreCase(other.schema);
        return bySchema != 0 ? bySchema : name.compareToIgnoreCase(other.name);
    }
}
