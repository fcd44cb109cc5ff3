package dachshund.core.query;

import dachshund.core.definition.Named;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TimeColumn.Form;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * A query of lines that read as a sentence; {@link DesignedSql} makes SQL of it.
 *
 * @param in    id of a read-only database or of a destination that is one
 * @param table the first of its tables; the columns of it are those of table 0, those of the first join of table 1
 * @param time  by which rows are within the window; empty for rows of all times
 * @param per   a row for each such period; needs a time
 * @param by    a row for each value of these columns
 * @param shown empty for every column of the table, where there is a row for each of its rows
 * @param order names of what is shown
 * @param most  no more rows than these; 0 for all
 */
public record DesignedQuery(
        String in,
        TableName table,
        List<Join> joins,
        Optional<Time> time,
        Optional<Per> per,
        List<ColumnOf> by,
        List<Shown> shown,
        List<Filter> filters,
        List<Order> order,
        int most)
        implements QueryBody {

    /** A column of one of its tables. */
    public record ColumnOf(int table, String column) {}

    /**
     * Another table, by columns that are equal.
     *
     * @param unmatched whether rows without a partner there stay
     */
    public record Join(TableName table, List<Pair> on, boolean unmatched) {
        public Join {
            on = List.copyOf(on);
        }
    }

    /** @param there a column of the table that is joined */
    public record Pair(ColumnOf here, String there) {}

    /** @param typeName of the column, in the engine's words */
    public record Time(ColumnOf column, Form form, String typeName) {}

    /** What is made of a column. */
    public enum How {
        ITSELF("itself"),
        SUM("sum"),
        MEAN("mean"),
        LEAST("least"),
        GREATEST("greatest"),
        COUNT("how many"),
        DIFFERENT("how many different"),
        /** Of what is shown before it; see {@link Shown#formula}. */
        COMPUTED("computed");

        private final String words;

        How(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }

        /** @throws IllegalArgumentException with a sentence, where there is none of that name */
        public static How named(String name) {
            return one(values(), How::name, name, "nothing that can be made of a column");
        }
    }

    /**
     * A column of the answer.
     *
     * @param column  of which it is made; empty where it is computed, or where rows are counted
     * @param formula of other things that are shown, by their names
     * @param as      its name; empty for a usual one
     */
    public record Shown(How how, Optional<ColumnOf> column, String formula, String as) {

        /** Its name. */
        public String name() {
            if (!as.isBlank()) {
                return as.strip();
            }
            String of = column.map(ColumnOf::column).orElse("");
            return switch (how) {
                case ITSELF -> of;
                case SUM -> of;
                case COMPUTED -> "computed";
                case COUNT -> of.isEmpty() ? "rows_counted" : of + "_count";
                case DIFFERENT -> of + "_different";
                default -> of + "_" + how.words();
            };
        }
    }

    /** How a column is compared. */
    public enum Op {
        EQUALS("is", "="),
        NOT("is not", "<>"),
        LESS("is below", "<"),
        AT_MOST("is at most", "<="),
        GREATER("is above", ">"),
        AT_LEAST("is at least", ">="),
        CONTAINS("contains", ""),
        BEGINS("begins with", ""),
        EMPTY("is empty", ""),
        FILLED("is not empty", "");

        private final String words;
        private final String sql;

        Op(String words, String sql) {
            this.words = words;
            this.sql = sql;
        }

        public String words() {
            return words;
        }

        String sql() {
            return sql;
        }

        /** Whether it compares with something. */
        public boolean compares() {
            return this != EMPTY && this != FILLED;
        }

        /** @throws IllegalArgumentException with a sentence, where there is none of that name */
        public static Op named(String name) {
            return one(values(), Op::name, name, "no way to compare");
        }
    }

    /**
     * Which rows count.
     *
     * @param value what the column is compared with, or a parameter: a colon and its name
     * @param sort  of the value
     */
    public record Filter(ColumnOf column, Op op, String value, QueryParameter.Sort sort) {

        /** The parameter that it is compared with. */
        public Optional<String> parameter() {
            return op.compares() && value.strip().matches(":[\\p{L}_][\\p{L}\\p{N}_]*")
                    ? Optional.of(value.strip().substring(1))
                    : Optional.empty();
        }
    }

    /** @param down whether the largest comes first */
    public record Order(String name, boolean down) {}

    public DesignedQuery {
        joins = List.copyOf(joins);
        by = List.copyOf(by);
        shown = List.copyOf(shown);
        filters = List.copyOf(filters);
        order = List.copyOf(order);
    }

    private static <E> E one(E[] all, Function<E, String> names, String name, String what) {
        return Stream.of(all)
                .filter(each -> names.apply(each).equals(name))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("\"" + name + "\" is " + what + "."));
    }

    /** Every row of a table. */
    public static DesignedQuery of(String in, TableName table) {
        return new DesignedQuery(
                in,
                table,
                List.of(),
                Optional.empty(),
                Optional.empty(),
                List.of(),
                List.of(),
                List.of(),
                List.of(),
                0);
    }

    /** Its rows within a window. */
    public DesignedQuery by(Time of) {
        return new DesignedQuery(in, table, joins, Optional.of(of), per, by, shown, filters, order, most);
    }

    /** Whether a row of it stands for several of the table. */
    public boolean grouped() {
        return per.isPresent()
                || !by.isEmpty()
                || shown.stream().anyMatch(each -> each.how() != How.ITSELF && each.how() != How.COMPUTED);
    }

    /** The names of the columns of its answer; none where it has every column of the table. */
    public List<String> columnsOfAnswer() {
        List<String> names = new ArrayList<>();
        per.ifPresent(each -> names.addAll(
                each.named() ? List.of(each.name().toLowerCase(java.util.Locale.ROOT), "begins") : List.of("start")));
        by.forEach(each -> names.add(each.column()));
        shown.forEach(each -> names.add(each.name()));
        if (grouped() && shown.isEmpty()) {
            names.add("rows_counted");
        }
        return names;
    }

    /** Its tables, in the order of their numbers. */
    public List<TableName> tables() {
        return Stream.concat(Stream.of(table), joins.stream().map(Join::table)).toList();
    }

    @Override
    public Optional<String> database() {
        return in.isEmpty() ? Optional.empty() : Optional.of(in);
    }

    @Override
    public Set<String> things() {
        return in.isEmpty() ? Set.of() : Set.of(in);
    }

    @Override
    public List<String> names() {
        Set<String> names = new LinkedHashSet<>();
        if (time.isPresent()) {
            names.add("from");
            names.add("to");
        }
        filters.forEach(filter -> filter.parameter().ifPresent(names::add));
        return List.copyOf(names);
    }

    @Override
    public String words(Named named) {
        List<String> parts = new ArrayList<>();
        parts.add("Show "
                + (shown.isEmpty()
                        ? grouped() ? "nothing yet" : "every column"
                        : shown.stream().map(this::words).collect(Collectors.joining(", "))));
        parts.add("of " + named.name(in) + ", "
                + tables().stream().map(TableName::words).collect(Collectors.joining(" with ")));
        for (Join join : joins) {
            parts.add(join.table().words() + " where "
                    + join.on().stream()
                            .map(pair -> words(pair.here()) + " is its " + pair.there())
                            .collect(Collectors.joining(" and "))
                    + (join.unmatched() ? ", if there is one" : ""));
        }
        time.ifPresent(each -> parts.add(
                "for the window by " + words(each.column()) + " (" + each.form().words() + ")"));
        if (grouped()) {
            List<String> groups = new ArrayList<>();
            per.ifPresent(each -> groups.add(each.words()));
            by.forEach(each -> groups.add(words(each)));
            parts.add(groups.isEmpty() ? "in one row" : "per " + String.join(" and ", groups));
        }
        filters.forEach(each -> parts.add("where " + words(each.column()) + " "
                + each.op().words() + (each.op().compares() ? " " + each.value() : "")));
        order.forEach(each -> parts.add("sorted by " + each.name() + (each.down() ? ", largest first" : "")));
        if (most > 0) {
            parts.add("at most " + most + " rows");
        }
        return String.join(" · ", parts);
    }

    private String words(ColumnOf of) {
        return of.table() > 0 && of.table() < tables().size()
                ? tables().get(of.table()).name() + "." + of.column()
                : of.column();
    }

    private String words(Shown each) {
        String what =
                switch (each.how()) {
                    case ITSELF -> each.column().map(this::words).orElse("");
                    case COMPUTED -> each.formula();
                    default ->
                        each.how().words() + " of "
                                + each.column().map(this::words).orElse("rows");
                };
        return each.as().isBlank() ? what : what + " as " + each.name();
    }
}
