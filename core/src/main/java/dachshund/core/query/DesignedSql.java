package dachshund.core.query;

import dachshund.core.query.DesignedQuery.ColumnOf;
import dachshund.core.query.DesignedQuery.Filter;
import dachshund.core.query.DesignedQuery.How;
import dachshund.core.query.DesignedQuery.Join;
import dachshund.core.query.DesignedQuery.Op;
import dachshund.core.query.DesignedQuery.Order;
import dachshund.core.query.DesignedQuery.Pair;
import dachshund.core.query.DesignedQuery.Shown;
import dachshund.core.query.DesignedQuery.Time;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TimeColumn.Form;
import dachshund.core.sql.Dialect;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The SQL of a designed query, in the words of its engine, for people to read: names are quoted where they must be. Sums and means
 * mean the same on every engine: means are computed as floating-point numbers, and what is divided by zero is empty.
 *
 * @param text  with named parameters, as {@link dachshund.core.reader.QueryText} reads it
 * @param fixed values that are bound and not written, by their names in the text
 */
public record DesignedSql(String text, Map<String, QueryParameter> fixed) {

    private static final Pattern PLAIN_NAME = Pattern.compile("[A-Za-z_][A-Za-z0-9_]*");
    /** Texts that mean themselves in every engine. */
    private static final Pattern PLAIN_TEXT = Pattern.compile("[\\p{L}\\p{N} _.,;/()+-]*");

    /** Of one computed column, which repeats what it is computed of. */
    private static final int LONGEST = 10_000;

    private static final String PERIODS = "p";

    /** @throws QueryProblem with a sentence that says what is missing */
    public static DesignedSql of(DesignedQuery query, Dialect dialect) throws QueryProblem {
        return new Writer(query, dialect).write();
    }

    /** Writes one. */
    private static final class Writer {

        private final DesignedQuery query;
        private final Dialect dialect;
        private final boolean several;
        private final Map<String, QueryParameter> fixed = new LinkedHashMap<>();
        /** What each shown column is made of, by its name. */
        private final Map<String, String> made = new LinkedHashMap<>();

        Writer(DesignedQuery query, Dialect dialect) {
            this.query = query;
            this.dialect = dialect;
            this.several = !query.joins().isEmpty() || query.per().isPresent();
        }

        DesignedSql write() throws QueryProblem {
            if (query.table().name().isEmpty()) {
                throw new QueryProblem("Choose the table whose rows are asked for.");
            }
            Set<String> names = new HashSet<>();
            for (String name : query.columnsOfAnswer()) {
                if (!names.add(name.toLowerCase(Locale.ROOT))) {
                    throw new QueryProblem("Two columns of the answer are called " + name + ". Give one another name.");
                }
            }
            List<String> groups = new ArrayList<>();
            List<String> columns = columns(groups);
            StringBuilder sql = new StringBuilder("SELECT ")
                    .append(String.join(",\n       ", columns))
                    .append("\nFROM ")
                    .append(table(query.table(), 0));
            for (int i = 0; i < query.joins().size(); i++) {
                join(query.joins().get(i), i + 1, sql);
            }
            List<String> where = new ArrayList<>();
            if (query.time().isPresent()) {
                Time time = query.time().get();
                String suffix = suffix(time);
                where.add(column(time.column()) + " >= :from" + suffix);
                where.add(column(time.column()) + " < :to" + suffix);
                query.per().ifPresent(per -> periods(per, time, sql));
            } else if (query.per().isPresent()) {
                throw new QueryProblem("Say by which time a row belongs to a "
                        + query.per().get().words() + ": choose the column for the window.");
            }
            for (Filter filter : query.filters()) {
                where.add(filter(filter));
            }
            if (!where.isEmpty()) {
                sql.append("\nWHERE ").append(String.join("\n  AND ", where));
            }
            if (!groups.isEmpty()) {
                sql.append("\nGROUP BY ").append(String.join(", ", groups));
            }
            order(sql);
            String all = query.most() > 0 ? dialect.first(sql.toString(), query.most()) : sql.toString();
            return new DesignedSql(all, fixed);
        }

        private static String suffix(Time time) throws QueryProblem {
            return switch (time.form()) {
                case STAMP -> "";
                case SECONDS -> "_s";
                case MILLIS -> "_ms";
                case TEXT ->
                    throw new QueryProblem(
                            "Times that are written as texts are not compared here. Choose another column for the window.");
            };
        }

        private List<String> columns(List<String> groups) throws QueryProblem {
            List<String> columns = new ArrayList<>();
            if (query.per().isPresent()) {
                Per per = query.per().get();
                if (per.named()) {
                    columns.add(as(PERIODS + ".name", per.name().toLowerCase(Locale.ROOT)));
                    groups.add(PERIODS + ".name");
                }
                columns.add(as(PERIODS + ".start", per.named() ? "begins" : "start"));
                groups.add(PERIODS + ".start");
                // Two hours may show the same time, since the clock was set back.
                if (query.time().map(Time::form).orElse(Form.STAMP) != Form.STAMP) {
                    groups.add(PERIODS + ".begins");
                }
            }
            for (ColumnOf by : query.by()) {
                columns.add(as(column(by), by.column()));
                groups.add(column(by));
            }
            for (Shown shown : query.shown()) {
                String name = shown.name();
                String what = made(shown);
                if (what.length() > LONGEST) {
                    throw new QueryProblem(name + " is computed of so much that its SQL has more than " + LONGEST
                            + " characters. Compute it of fewer things, or write it as SQL.");
                }
                made.put(name, what);
                columns.add(as(what, name));
            }
            if (columns.isEmpty()) {
                return List.of(several ? letter(0) + ".*" : "*");
            }
            if (query.grouped() && query.shown().isEmpty()) {
                columns.add(as("COUNT(*)", "rows_counted"));
            }
            return columns;
        }

        private String made(Shown shown) throws QueryProblem {
            if (shown.how() == How.COMPUTED) {
                return ComputedSql.of(shown.formula(), made, dialect);
            }
            if (shown.how() == How.COUNT && shown.column().isEmpty()) {
                return "COUNT(*)";
            }
            String column = column(shown.column()
                    .orElseThrow(() -> new QueryProblem(
                            "Say of which column " + shown.how().words() + " is shown.")));
            return switch (shown.how()) {
                case SUM -> "SUM(" + column + ")";
                case MEAN -> "AVG(" + ComputedSql.floating(column, dialect) + ")";
                case LEAST -> "MIN(" + column + ")";
                case GREATEST -> "MAX(" + column + ")";
                case COUNT -> "COUNT(" + column + ")";
                case DIFFERENT -> "COUNT(DISTINCT " + column + ")";
                default -> {
                    if (query.grouped()) {
                        throw new QueryProblem("A row stands for several of the table now, so that "
                                + shown.name() + " is more than one value. Say what of it is shown, such as its sum"
                                + " or mean, or show a row per " + shown.name() + ".");
                    }
                    yield column;
                }
            };
        }

        private void join(Join join, int number, StringBuilder sql) throws QueryProblem {
            if (join.on().isEmpty()) {
                throw new QueryProblem("Say by which columns " + join.table().words() + " is joined.");
            }
            sql.append(join.unmatched() ? "\nLEFT JOIN " : "\nJOIN ")
                    .append(table(join.table(), number))
                    .append(" ON ")
                    .append(join.on().stream()
                            .map((Pair pair) ->
                                    column(pair.here()) + " = " + column(new ColumnOf(number, pair.there())))
                            .collect(Collectors.joining(" AND ")));
        }

        private void periods(Per per, Time time, StringBuilder sql) {
            String how =
                    switch (time.form()) {
                        case SECONDS -> "_s";
                        case MILLIS -> "_ms";
                        default -> dialect.clock(time.typeName()) ? "_local" : "";
                    };
            sql.append("\nJOIN :")
                    .append(per.table())
                    .append(how)
                    .append(" AS " + PERIODS + " ON ")
                    .append(column(time.column()))
                    .append(" >= " + PERIODS + ".begins AND ")
                    .append(column(time.column()))
                    .append(" < " + PERIODS + ".ends");
        }

        private String filter(Filter filter) throws QueryProblem {
            String column = column(filter.column());
            if (!filter.op().compares()) {
                return column + (filter.op() == Op.EMPTY ? " IS NULL" : " IS NOT NULL");
            }
            String value = value(filter);
            return switch (filter.op()) {
                case CONTAINS -> dialect.position("LOWER(" + value + ")", "LOWER(" + column + ")") + " > 0";
                case BEGINS -> dialect.position("LOWER(" + value + ")", "LOWER(" + column + ")") + " = 1";
                default -> column + " " + filter.op().sql() + " " + value;
            };
        }

        private String value(Filter filter) throws QueryProblem {
            Optional<String> parameter = filter.parameter();
            if (parameter.isPresent()) {
                return ":" + parameter.get();
            }
            String value = filter.sort() == QueryParameter.Sort.TEXT
                    ? filter.value()
                    : filter.value().strip();
            if (value.isEmpty() && filter.sort() != QueryParameter.Sort.TEXT) {
                throw new QueryProblem("Say what " + filter.column().column() + " is compared with.");
            }
            if (filter.sort() == QueryParameter.Sort.NUMBER) {
                try {
                    return new BigDecimal(value).toPlainString();
                } catch (NumberFormatException none) {
                    throw new QueryProblem("\"" + value + "\" is no number for "
                            + filter.column().column() + ". Write it with a point, such as 12.5.");
                }
            }
            if (filter.sort() == QueryParameter.Sort.TEXT
                    && PLAIN_TEXT.matcher(value).matches()) {
                return "'" + value + "'";
            }
            String name = "value_" + (fixed.size() + 1);
            while (query.names().contains(name)) {
                name += "_";
            }
            fixed.put(name, new QueryParameter(name, filter.sort(), value));
            return ":" + name;
        }

        private void order(StringBuilder sql) throws QueryProblem {
            List<String> by = new ArrayList<>();
            for (Order each : query.order()) {
                List<String> there = query.columnsOfAnswer();
                if (!there.isEmpty() && !there.contains(each.name())) {
                    throw new QueryProblem("The answer has no column " + each.name() + " to be sorted by. It has "
                            + String.join(", ", there) + ".");
                }
                by.add(sorted(each.name()) + (each.down() ? " DESC" : ""));
            }
            if (by.isEmpty() && query.per().isPresent()) {
                boolean stamp = query.time().map(Time::form).orElse(Form.STAMP) == Form.STAMP;
                by.add(stamp ? name(query.per().get().named() ? "begins" : "start") : PERIODS + ".begins");
                query.by().forEach(each -> by.add(column(each)));
            }
            if (!by.isEmpty()) {
                sql.append("\nORDER BY ").append(String.join(", ", by));
            }
        }

        /** What one column of the answer is sorted by: several tables may have a column of its name. */
        private String sorted(String name) {
            return Stream.concat(
                            query.by().stream(),
                            query.shown().stream()
                                    .filter(each -> each.how() == How.ITSELF
                                            && each.name().equals(name))
                                    .flatMap(each -> each.column().stream()))
                    .filter(each -> several && each.column().equals(name)
                            || made.containsKey(name) && column(each).equals(made.get(name)))
                    .findFirst()
                    .map(this::column)
                    .orElseGet(() -> name(name));
        }

        private String table(TableName table, int number) {
            String name =
                    table.schema().isEmpty() ? name(table.name()) : name(table.schema()) + "." + name(table.name());
            return several ? name + " AS " + letter(number) : name;
        }

        private static String letter(int number) {
            return number < 15 ? Character.toString((char) ('a' + number)) : "t" + number;
        }

        private String column(ColumnOf of) {
            return several ? letter(of.table()) + "." + name(of.column()) : name(of.column());
        }

        private String as(String what, String name) {
            return what.equals(name(name)) || what.endsWith("." + name(name)) ? what : what + " AS " + name(name);
        }

        /** Quoted where it must be. */
        private String name(String name) {
            return PLAIN_NAME.matcher(name).matches()
                            && dialect.identifierHint(name).isEmpty()
                    ? name
                    : dialect.quote(name);
        }
    }

    /** With what is bound as parameters of its own: the query as somebody might have written it. */
    public QueryDefinition written(QueryDefinition query, String database) {
        QueryDefinition written = new QueryDefinition(
                query.id(),
                query.name(),
                query.description(),
                new WrittenQuery(database, text),
                query.window(),
                Stream.concat(query.parameters().stream(), fixed.values().stream())
                        .toList());
        return written.fitted();
    }
}
