package dachshund.links.jdbc;

import dachshund.core.destination.StoreProblem;
import dachshund.core.layout.SqlType;
import dachshund.core.reader.FoundTable;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.Question;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TableShape.Sort;
import dachshund.core.row.Conversion;
import dachshund.core.source.LinkTest;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** Tables and views of one database, and their rows. */
public final class JdbcTables implements TableReading {

    private static final int AT_ONCE = 1000;

    /** Types whose = finds at least what is the same letter for letter; a type of somebody's own may be called anything. */
    private static final Pattern COMPARED_AS_TEXT =
            Pattern.compile("(?i)(n?varchar|n?char|bpchar|(tiny|medium|long)?text|name|enum)(\\s*\\(.*\\))?");

    /** PostgreSQL's CHAR, which fills up with blanks that mean nothing (its documentation, 8.3 Character Types). */
    private static final String FILLED_UP = "bpchar";

    private static final Pattern WHOLE = Pattern.compile("-?\\d{1,15}");

    /** By so much clocks are set back and forward at most; what lies between is sorted out by instants. */
    private static final Duration CHANGEOVER = Duration.ofHours(3);

    private final JdbcEngine engine;
    private final ZoneId zone;
    private final JdbcProblems problems;
    private final Connections connections;
    private final TableDescriptions descriptions;

    /** @param zone of times that say none */
    public JdbcTables(JdbcEngine engine, ZoneId zone) {
        this.engine = engine;
        this.zone = zone;
        this.problems = new JdbcProblems(engine);
        this.connections = new Connections(engine, problems, engine::readingPool, "tables");
        this.descriptions = new TableDescriptions(engine);
    }

    @Override
    public LinkTest test(Duration limit) {
        if (!engine.isThere()) {
            return LinkTest.failed("There is no file " + engine.place() + ".", "file");
        }
        long from = System.nanoTime();
        try (Connection connection = engine.connect(limit)) {
            return LinkTest.good(
                    engine.answered(connection) + " in " + (System.nanoTime() - from) / 1_000_000 + " ms.",
                    engine.database());
        } catch (SQLException e) {
            return problems.failed(e);
        }
    }

    @Override
    public Optional<String> mayWrite() throws StoreProblem {
        return engine.isThere() ? connections.ask(engine::mayWrite) : Optional.empty();
    }

    @Override
    public List<FoundTable> tables() throws StoreProblem {
        return engine.isThere() ? connections.ask(descriptions::tables) : List.of();
    }

    @Override
    public Optional<TableShape> describe(TableName table) throws StoreProblem {
        return engine.isThere()
                ? connections.ask(connection -> descriptions.shape(connection, table))
                : Optional.empty();
    }

    @Override
    public Read read(Question question, Duration limit, Taker taker) throws StoreProblem {
        if (!engine.isThere()) {
            throw new StoreProblem(StoreProblem.Kind.TABLE, -1, "There is no file " + engine.place() + ".", null);
        }
        return JdbcReader.within(connections, engine, limit, connection -> {
            TableShape shape = descriptions
                    .shape(connection, question.table())
                    .orElseThrow(() -> missing(
                            "There is no table or view " + question.table().words() + " that this account may read."));
            return rows(connection, shape, question, limit, taker);
        });
    }

    @Override
    public long ask(QueryText query, List<Object> values, Duration limit, long most, Taker taker)
            throws StoreProblem, QueryProblem {
        if (!engine.isThere()) {
            throw new StoreProblem(StoreProblem.Kind.TABLE, -1, "There is no file " + engine.place() + ".", null);
        }
        Optional<String> refused = engine.refuses(query.statement());
        if (refused.isPresent()) {
            throw new QueryProblem(refused.get());
        }
        try {
            return JdbcReader.within(
                    connections,
                    engine,
                    limit,
                    connection -> JdbcQuery.ask(connection, engine, zone, query, values, limit, most, taker));
        } catch (StoreProblem problem) {
            throw placed(problem, engine, query, values);
        }
    }

    /**
     * The problem, to throw.
     *
     * @throws QueryProblem where its place in the statement is known
     */
    static StoreProblem placed(StoreProblem problem, JdbcEngine engine, QueryText query, List<Object> values)
            throws QueryProblem {
        // What may pass is told as what it is.
        boolean passing = problem.kind() == StoreProblem.Kind.AWAY
                || problem.kind() == StoreProblem.Kind.BUSY
                || problem.kind() == StoreProblem.Kind.CLASHED;
        Optional<QueryProblem> placed = passing
                ? Optional.empty()
                : ErrorPlace.in(
                        problem.getMessage(),
                        query,
                        BoundValues.numbered(values, engine.dialect()),
                        engine.errorPlaces());
        if (placed.isPresent()) {
            throw placed.get();
        }
        return problem;
    }

    /** What was asked for is not there: trouble of the question alone. */
    private static RefusedPlace missing(String sentence) {
        return new RefusedPlace(sentence, true);
    }

    private static TableShape.Column column(TableShape shape, String name) throws RefusedPlace {
        return shape.column(name).orElseThrow(() -> missing(shape.name().words() + " has no column " + name + "."));
    }

    /**
     * What is read: the columns that are wanted, and behind them those that tell whether a row is.
     *
     * @param time  where its time stands; below 0 for all times
     * @param where where the cell stands that has to be a text; below 0 for all rows
     * @param text  that text
     */
    private record Asked(List<TableShape.Column> columns, int shown, int time, int where, String text) {

        boolean isWanted(Object cell) {
            return cell != null && text.equals(comparable(columns.get(where), Conversion.plain(cell)));
        }
    }

    private static String comparable(TableShape.Column column, String text) {
        return column.typeName().equals(FILLED_UP) ? text.stripTrailing() : text;
    }

    private static Asked asked(TableShape shape, Question question) throws RefusedPlace {
        List<TableShape.Column> columns = new ArrayList<>();
        if (question.columns().isEmpty()) {
            columns.addAll(shape.columns());
        } else {
            for (String name : question.columns()) {
                columns.add(column(shape, name));
            }
        }
        int shown = columns.size();
        int time = question.within().isEmpty()
                ? -1
                : place(columns, column(shape, question.within().get().time().name()));
        if (question.where().isEmpty()) {
            return new Asked(columns, shown, time, -1, "");
        }
        TableShape.Column where = column(shape, question.where().get().column());
        return new Asked(
                columns,
                shown,
                time,
                place(columns, where),
                comparable(where, question.where().get().text()));
    }

    /** Where a column stands among others, behind them where it was not among them. */
    private static int place(List<TableShape.Column> columns, TableShape.Column column) {
        if (!columns.contains(column)) {
            columns.add(column);
        }
        return columns.indexOf(column);
    }

    private Read rows(Connection connection, TableShape shape, Question question, Duration limit, Taker taker)
            throws SQLException {
        Asked asked = asked(shape, question);
        List<Object> bounds = new ArrayList<>();
        StringBuilder sql = new StringBuilder("SELECT ")
                .append(asked.columns().stream()
                        .map(TableShape.Column::name)
                        .map(engine.dialect()::quote)
                        .collect(Collectors.joining(", ")))
                .append(" FROM ")
                .append(
                        question.table().schema().isEmpty()
                                ? ""
                                : engine.dialect().quote(question.table().schema()) + ".")
                .append(engine.dialect().quote(question.table().name()));
        if (question.within().isPresent()) {
            where(
                    sql,
                    column(shape, question.within().get().time().name()),
                    question.within().get(),
                    bounds);
        }
        if (question.where().isPresent()) {
            where(sql, asked.columns().get(asked.where()), asked.text(), bounds);
        }
        if (question.order().isPresent()) {
            sql.append(" ORDER BY ")
                    .append(engine.dialect()
                            .quote(column(shape, question.order().get()).name()))
                    .append(question.newestFirst() ? " DESC" : "");
        }
        // Rows that are not wanted all the same are sorted out here, so their number is no help to the database.
        long all =
                question.most() > Long.MAX_VALUE - question.skip() ? Long.MAX_VALUE : question.skip() + question.most();
        boolean sieved = question.within().isPresent() || question.where().isPresent();
        String text = !sieved && all <= Integer.MAX_VALUE
                ? engine.dialect().first(sql.toString(), (int) all)
                : sql.toString();
        try (PreparedStatement statement =
                        connection.prepareStatement(text, ResultSet.TYPE_FORWARD_ONLY, ResultSet.CONCUR_READ_ONLY);
                JdbcEngine.Limit limited = engine.limit(connection, statement, limit)) {
            statement.setFetchSize(AT_ONCE);
            for (int i = 0; i < bounds.size(); i++) {
                if (bounds.get(i) instanceof Instant at) {
                    engine.bind(statement, i + 1, at, SqlType.timestamp(6));
                } else {
                    statement.setObject(i + 1, bounds.get(i));
                }
            }
            try (ResultSet rows = statement.executeQuery()) {
                return take(statement, rows, asked, question, taker);
            }
        } catch (SQLException refused) {
            if (question.where().isPresent() && engine.lacksLetters(refused)) {
                taker.columns(asked.columns().subList(0, asked.shown()));
                return new Read(0, 0);
            }
            throw refused;
        }
    }

    /** What an index of the column can be asked for; a little more than is wanted where clocks are set back and forward. */
    private void where(StringBuilder sql, TableShape.Column column, Question.Within within, List<Object> bounds) {
        Object from;
        Object to;
        switch (within.time().form()) {
            case SECONDS -> {
                from = Math.floorDiv(within.from().toEpochMilli(), 1000L);
                to = Math.floorDiv(within.to().toEpochMilli(), 1000L) + 1;
            }
            case MILLIS -> {
                from = within.from().toEpochMilli();
                to = within.to().toEpochMilli() + 1;
            }
            case TEXT -> {
                // Compared by their first ten letters at least; an offset moves a time by 18 hours at most.
                from = LocalDate.ofInstant(within.from(), ZoneOffset.UTC)
                        .minusDays(1)
                        .toString();
                to = LocalDate.ofInstant(within.to(), ZoneOffset.UTC)
                        .plusDays(2)
                        .toString();
            }
            default -> {
                if (engine.typesByCell()) {
                    from = LocalDate.ofInstant(within.from(), ZoneOffset.UTC)
                            .minusDays(1)
                            .toString();
                    to = LocalDate.ofInstant(within.to(), ZoneOffset.UTC)
                            .plusDays(2)
                            .toString();
                } else if (column.sort() == Sort.DATE) {
                    from = LocalDate.ofInstant(within.from(), zone);
                    to = LocalDate.ofInstant(within.to(), zone).plusDays(1);
                } else if (engine.namesInstants(column.typeName())) {
                    from = within.from();
                    to = within.to().plusNanos(1000);
                } else {
                    from = LocalDateTime.ofInstant(within.from(), zone).minus(CHANGEOVER);
                    to = LocalDateTime.ofInstant(within.to(), zone).plus(CHANGEOVER);
                }
            }
        }
        String name = engine.dialect().quote(column.name());
        sql.append(" WHERE ").append(name).append(" >= ? AND ").append(name).append(" < ?");
        bounds.add(from);
        bounds.add(to);
    }

    /**
     * What an index of the column can be asked for: all rows that may be wanted, and a few others where the database compares more
     * loosely. Of cells that it would compare in another way than by their text or number, nothing.
     */
    private void where(StringBuilder sql, TableShape.Column column, String text, List<Object> bounds) {
        Object bound;
        if (column.sort() == Sort.TEXT
                && COMPARED_AS_TEXT.matcher(column.typeName()).matches()) {
            bound = text;
        } else if (column.sort() == Sort.NUMBER && WHOLE.matcher(text).matches()) {
            bound = Long.valueOf(text);
        } else {
            return;
        }
        sql.append(bounds.isEmpty() ? " WHERE " : " AND ")
                .append(engine.dialect().quote(column.name()))
                .append(" = ?");
        bounds.add(bound);
    }

    private Read take(Statement statement, ResultSet rows, Asked asked, Question question, Taker taker)
            throws SQLException {
        ResultSetMetaData meta = rows.getMetaData();
        AnyCell[] cells = new AnyCell[asked.columns().size()];
        for (int i = 0; i < cells.length; i++) {
            cells[i] = AnyCell.of(meta, i + 1, engine, asked.columns().get(i).sort(), zone);
        }
        taker.columns(List.copyOf(asked.columns().subList(0, asked.shown())));
        Sieve sieve = new Sieve(question, zone);
        boolean over = false;
        try {
            while (sieve.taken < question.most()) {
                if (!rows.next()) {
                    over = true;
                    break;
                }
                Object[] row = new Object[asked.shown()];
                for (int i = 0; i < row.length; i++) {
                    row[i] = cells[i].read(rows);
                }
                boolean wanted = asked.where() < 0 || asked.isWanted(cell(rows, cells, row, asked.where()));
                if (wanted && sieve.lets(cell(rows, cells, row, asked.time())) && !taker.row(Arrays.asList(row))) {
                    return new Read(sieve.taken, sieve.timeless);
                }
            }
            over |= question.within().isEmpty() && question.where().isEmpty(); // the database was told where it ends
            return new Read(sieve.taken, sieve.timeless);
        } finally {
            if (!over) {
                stop(statement);
            }
        }
    }

    /** One that is read already, or not; null where none is meant. */
    private static Object cell(ResultSet rows, AnyCell[] cells, Object[] read, int at) throws SQLException {
        if (at < 0) {
            return null;
        }
        return at < read.length ? read[at] : cells[at].read(rows);
    }

    /** Which rows of those that the database gives are wanted. */
    private static final class Sieve {

        private final Question question;
        private final Function<Object, Optional<Instant>> times;
        private long taken;
        private long passed;
        private long timeless;

        Sieve(Question question, ZoneId zone) {
            this.question = question;
            this.times =
                    question.within().map(within -> within.time().reading(zone)).orElse(null);
        }

        boolean lets(Object time) {
            if (times != null) {
                Optional<Instant> at = times.apply(time);
                if (at.isEmpty()) {
                    timeless++;
                    return false;
                }
                Question.Within within = question.within().orElseThrow();
                if (at.get().isBefore(within.from()) || !at.get().isBefore(within.to())) {
                    return false;
                }
            }
            if (passed < question.skip()) {
                passed++;
                return false;
            }
            taken++;
            return true;
        }
    }

    /** The driver would read the rest of a long answer to its end. */
    static void stop(Statement statement) {
        try {
            statement.cancel();
        } catch (SQLException over) {
            // it had come to its end by itself
        }
    }

    @Override
    public void close() {
        connections.close();
    }
}
