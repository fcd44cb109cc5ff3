package dachshund.core.destination;

import java.util.List;
import java.util.stream.IntStream;

/** How a row gets into its table. */
public sealed interface WriteMode {

    /** Every way there is. */
    List<Class<? extends WriteMode>> ALL = List.of(Insert.class, Update.class, InsertOrUpdate.class, Call.class);

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
     * @param arguments names of its arguments; empty where it takes one JSON text
     * @param columns   names of the columns that give them, in the same order: an argument keeps its column when columns are
     *                  moved, renamed or added; empty in what was designed before there was this, where the order of the
     *                  written columns counts
     */
    record Call(String procedure, List<String> arguments, List<String> columns) implements WriteMode {
        public Call {
            arguments = List.copyOf(arguments);
            columns = columns == null ? List.of() : List.copyOf(columns);
        }

        /** With one JSON text, or arguments in the order of the written columns. */
        public Call(String procedure, List<String> arguments) {
            this(procedure, arguments, List.of());
        }

        /** The same where a column has another name. */
        public Call renamed(String from, String to) {
            return new Call(
                    procedure,
                    arguments,
                    columns.stream().map(name -> name.equals(from) ? to : name).toList());
        }

        /** Which of the written columns gives each argument, or a sentence on what does not fit. */
        public Binding bind(List<String> written) {
            if (columns.isEmpty()) {
                return arguments.size() == written.size()
                        ? new Binding(IntStream.range(0, written.size()).toArray(), "")
                        : new Binding(
                                new int[0],
                                "The row has " + written.size() + " columns, and " + procedure + " takes "
                                        + arguments.size() + " arguments: name an argument for each column.");
            }
            for (int i = 0; i < columns.size(); i++) {
                if (!written.contains(columns.get(i))) {
                    return new Binding(
                            new int[0],
                            "The argument " + arguments.get(i) + " of " + procedure + " is given by the column "
                                    + columns.get(i) + ", which the row does not have.");
                }
            }
            for (String name : written) {
                if (!columns.contains(name)) {
                    return new Binding(new int[0], "No argument of " + procedure + " takes the column " + name + ".");
                }
            }
            return new Binding(columns.stream().mapToInt(written::indexOf).toArray(), "");
        }

        /**
         * @param places  place of each argument's column among the written ones
         * @param problem a sentence where it does not fit; empty where it does
         */
        public record Binding(int[] places, String problem) {}

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
