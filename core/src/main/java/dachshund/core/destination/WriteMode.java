package dachshund.core.destination;

import java.util.List;

/** How a row gets into its table. */
public sealed interface WriteMode {

    /** A new row each time. */
    record Insert() implements WriteMode {
        @Override
        public String words() {
            return "insert";
        }
    }

    /** The row whose key columns have the same values is changed; where there is none the row is set aside. */
    record Update() implements WriteMode {
        @Override
        public String words() {
            return "update";
        }
    }

    /** The row whose key columns have the same values is changed; where there is none it is inserted. */
    record InsertOrUpdate() implements WriteMode {
        @Override
        public String words() {
            return "insert or update";
        }
    }

    /**
     * A stored procedure is called with each row.
     *
     * @param procedure its name
     * @param arguments names of its arguments, one for each written column of the layout; empty where it takes one JSON text
     */
    record Call(String procedure, List<String> arguments) implements WriteMode {
        public Call {
            arguments = List.copyOf(arguments);
        }

        /** Whether it takes the whole row as one JSON object. */
        public boolean oneJson() {
            return arguments.isEmpty();
        }

        @Override
        public String words() {
            return "call " + procedure;
        }
    }

    String words();

    /** Whether it needs to know which columns tell one row from another. */
    default boolean needsKey() {
        return this instanceof Update || this instanceof InsertOrUpdate;
    }
}
