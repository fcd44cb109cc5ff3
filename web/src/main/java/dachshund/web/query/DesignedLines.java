package dachshund.web.query;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.DesignedQuery;
import dachshund.core.query.DesignedQuery.ColumnOf;
import dachshund.core.query.DesignedQuery.Filter;
import dachshund.core.query.DesignedQuery.How;
import dachshund.core.query.DesignedQuery.Join;
import dachshund.core.query.DesignedQuery.Op;
import dachshund.core.query.DesignedQuery.Order;
import dachshund.core.query.DesignedQuery.Pair;
import dachshund.core.query.DesignedQuery.Shown;
import dachshund.core.query.DesignedQuery.Time;
import dachshund.core.query.Per;
import dachshund.core.query.QueryParameter;
import dachshund.core.reader.FoundTable;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TimeColumn.Form;
import dachshund.engine.thread.Threads;
import dachshund.office.reader.Databases;
import jakarta.annotation.PreDestroy;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Future;
import java.util.concurrent.Semaphore;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/** A designed query as a form of lines, and back: what is chosen in one line decides what others offer. */
@Component
class DesignedLines {

    private static final String BETWEEN = "\n";

    /** So long a page waits for what a database says of its tables. */
    private static final long PATIENCE_MILLIS = 2000;

    private static final int MOST_WAITING = 8;

    private final Databases databases;
    private final ThreadPoolExecutor looking = Threads.onDemandOfPages("looking-at-tables");
    private final Semaphore looks = new Semaphore(MOST_WAITING);

    DesignedLines(Databases databases) {
        this.databases = databases;
    }

    /** A column on offer: as forms have it, and in words. */
    public record Offer(String key, String words, String group) {}

    /** Its tables as the database has them now; empty where it does not answer. */
    private record Known(List<FoundTable> tables, List<TableShape> shapes, String trouble) {

        Optional<TableShape.Column> column(ColumnOf of) {
            return of.table() < shapes.size() ? shapes.get(of.table()).column(of.column()) : Optional.empty();
        }
    }

    static String key(TableName table) {
        return table.schema() + BETWEEN + table.name();
    }

    private static TableName table(String key) {
        // Browsers send what stood there as LF with CR before it.
        String plain = key.replace("\r", "");
        int at = plain.indexOf(BETWEEN);
        return at < 0
                ? new TableName("", plain.strip())
                : new TableName(plain.substring(0, at), plain.substring(at + 1));
    }

    public static String key(ColumnOf column) {
        return column.table() + "." + column.column();
    }

    private static Optional<ColumnOf> column(String key) {
        int at = key.indexOf('.');
        if (at < 1 || !key.substring(0, at).matches("\\d{1,3}")) {
            return Optional.empty();
        }
        return Optional.of(new ColumnOf(Integer.parseInt(key.substring(0, at)), key.substring(at + 1)));
    }

    /** What the form says, as somebody left it. */
    private static DesignedQuery typed(QueryForm form) {
        List<Join> joins = new ArrayList<>();
        List<Integer> kept = form.lines("join", "table");
        for (int line : kept) {
            List<Pair> pairs = new ArrayList<>();
            for (int pair : form.lines("join-" + line, "there")) {
                Optional<ColumnOf> here = column(form.raw("join-" + line + "-" + pair + "-here"));
                here.ifPresent(each -> pairs.add(new Pair(each, form.raw("join-" + line + "-" + pair + "-there"))));
            }
            joins.add(new Join(
                    table(form.raw("join-" + line + "-table")), pairs, form.ticked("join-" + line + "-unmatched")));
        }
        List<Shown> shown = form.lines("shown", "how").stream()
                .map(line -> new Shown(
                        How.named(form.text("shown-" + line + "-how")),
                        column(form.raw("shown-" + line + "-column")),
                        form.text("shown-" + line + "-formula"),
                        form.text("shown-" + line + "-as")))
                .toList();
        List<Filter> filters = form.lines("filter", "op").stream()
                .flatMap(line -> column(form.raw("filter-" + line + "-column")).stream()
                        .map(column -> new Filter(
                                column,
                                Op.named(form.text("filter-" + line + "-op")),
                                form.raw("filter-" + line + "-value"),
                                sort(form.text("filter-" + line + "-sort")))))
                .toList();
        List<Order> order = form.lines("order", "name").stream()
                .map(line -> new Order(form.raw("order-" + line + "-name"), form.ticked("order-" + line + "-down")))
                .filter(each -> !each.name().isEmpty())
                .toList();
        List<ColumnOf> by = form.lines("by", "column").stream()
                .flatMap(line -> column(form.raw("by-" + line + "-column")).stream())
                .toList();
        Optional<Time> time = column(form.raw("time"))
                .map(each -> new Time(
                        each,
                        form.text("form").isEmpty() ? Form.STAMP : Form.named(form.text("form")),
                        form.text("time-type")));
        return without(
                new DesignedQuery(
                        form.text("database"),
                        table(form.raw("table")),
                        joins,
                        time,
                        form.text("per").isEmpty() ? Optional.empty() : Optional.of(Per.of(form.text("per"))),
                        by,
                        shown,
                        filters,
                        order,
                        most(form.text("most"))),
                form,
                kept);
    }

    private static QueryParameter.Sort sort(String name) {
        return name.isEmpty() ? QueryParameter.Sort.TEXT : QueryParameter.Sort.named(name);
    }

    private static int most(String typed) {
        if (typed.isEmpty()) {
            return 0;
        }
        try {
            int most = Integer.parseInt(typed);
            if (most > 0) {
                return most;
            }
        } catch (NumberFormatException none) {
            // the sentence below
        }
        throw new IllegalArgumentException(
                "\"" + typed + "\" is no number of rows. Write a whole one, or nothing for all.");
    }

    /** Where a joined table is dropped, what was of it goes with it, and those behind it move up. */
    private static DesignedQuery without(DesignedQuery query, QueryForm form, List<Integer> kept) {
        String drop = form.text("drop");
        if (!drop.matches("join-\\d{1,4}")) {
            return query;
        }
        int gone = 1
                + (int) kept.stream()
                        .filter(each -> each < Integer.parseInt(drop.substring("join-".length())))
                        .count();
        return new Moved(gone).of(query);
    }

    private record Moved(int gone) {

        Optional<ColumnOf> of(ColumnOf column) {
            if (column.table() == gone) {
                return Optional.empty();
            }
            return Optional.of(column.table() < gone ? column : new ColumnOf(column.table() - 1, column.column()));
        }

        DesignedQuery of(DesignedQuery query) {
            return new DesignedQuery(
                    query.in(),
                    query.table(),
                    query.joins().stream()
                            .map(join -> new Join(
                                    join.table(),
                                    join.on().stream()
                                            .flatMap(pair ->
                                                    of(pair.here()).stream().map(here -> new Pair(here, pair.there())))
                                            .toList(),
                                    join.unmatched()))
                            .toList(),
                    query.time().flatMap(time -> of(time.column())
                            .map(column -> new Time(column, time.form(), time.typeName()))),
                    query.per(),
                    query.by().stream().flatMap(each -> of(each).stream()).toList(),
                    query.shown().stream()
                            .filter(each -> each.column().isEmpty()
                                    || of(each.column().get()).isPresent())
                            .map(each ->
                                    new Shown(each.how(), each.column().flatMap(this::of), each.formula(), each.as()))
                            .toList(),
                    query.filters().stream()
                            .flatMap(each -> of(each.column()).stream()
                                    .map(column -> new Filter(column, each.op(), each.value(), each.sort())))
                            .toList(),
                    query.order(),
                    query.most());
        }
    }

    /** As the form has it, without the database. */
    DesignedQuery quick(QueryForm form) {
        return typed(form);
    }

    /** As the form has it, with the sorts of its columns. */
    DesignedQuery query(QueryForm form) {
        DesignedQuery typed = typed(form);
        return typed.in().isEmpty() || typed.table().name().isEmpty() ? typed : known(typed, look(typed));
    }

    /** After an edit: with what was added, and what follows from it. */
    DesignedQuery edited(QueryForm form) {
        DesignedQuery typed = typed(form);
        if (typed.in().isEmpty()) {
            return DesignedQuery.of("", new TableName("", ""));
        }
        if (!form.text("was-table").isEmpty() && !table(form.raw("was-table")).equals(typed.table())
                || !form.text("was-database").equals(typed.in())) {
            // Of another table nothing of this one is left.
            TableName table = form.text("was-database").equals(typed.in()) ? typed.table() : new TableName("", "");
            return begun(DesignedQuery.of(typed.in(), table));
        }
        if (typed.table().name().isEmpty()) {
            return typed;
        }
        if (form.text("was-table").isBlank()) {
            return begun(typed);
        }
        Known known = look(typed);
        DesignedQuery more = added(typed, form, known);
        return known(regrouped(more, form.ticked("was-grouped"), known), look(more));
    }

    private DesignedQuery begun(DesignedQuery query) {
        if (query.table().name().isEmpty()) {
            return query;
        }
        Known known = look(query);
        Optional<Time> time = known.shapes().stream()
                .findFirst()
                .flatMap(TableShape::time)
                .map(column -> new Time(new ColumnOf(0, column.name()), Form.STAMP, column.typeName()));
        return new DesignedQuery(
                query.in(),
                query.table(),
                List.of(),
                time,
                Optional.empty(),
                List.of(),
                List.of(),
                List.of(),
                List.of(),
                0);
    }

    private DesignedQuery added(DesignedQuery query, QueryForm form, Known known) {
        List<Join> joins = new ArrayList<>(query.joins());
        List<ColumnOf> by = new ArrayList<>(query.by());
        List<Shown> shown = new ArrayList<>(query.shown());
        List<Filter> filters = new ArrayList<>(query.filters());
        List<Order> order = new ArrayList<>(query.order());
        if (!form.text("add-join").isEmpty()) {
            TableName table = table(form.raw("add-join"));
            joins.add(new Join(table, pairs(query, known, table), false));
        }
        column(form.raw("add-by")).ifPresent(by::add);
        switch (form.text("add-shown")) {
            case "count" -> shown.add(new Shown(How.COUNT, Optional.empty(), "", ""));
            case "computed" -> shown.add(new Shown(How.COMPUTED, Optional.empty(), "", ""));
            default ->
                column(form.raw("add-shown"))
                        .ifPresent(each -> shown.add(new Shown(
                                query.grouped() ? grouped(each, known) : How.ITSELF, Optional.of(each), "", "")));
        }
        column(form.raw("add-filter"))
                .ifPresent(each -> filters.add(new Filter(each, Op.EQUALS, "", QueryParameter.Sort.TEXT)));
        if (!form.text("add-order").isEmpty()) {
            order.add(new Order(form.raw("add-order"), false));
        }
        return new DesignedQuery(
                query.in(), query.table(), joins, query.time(), query.per(), by, shown, filters, order, query.most());
    }

    private static How grouped(ColumnOf column, Known known) {
        return known.column(column)
                        .map(each -> each.sort() == TableShape.Sort.NUMBER)
                        .orElse(false)
                ? How.SUM
                : How.COUNT;
    }

    /** By a key that leads there, else by one that leads from there, else by columns of one name that are a key there. */
    private List<Pair> pairs(DesignedQuery query, Known known, TableName to) {
        Optional<TableShape> there = look(DesignedQuery.of(query.in(), to)).shapes().stream()
                .filter(each -> !each.columns().isEmpty())
                .findFirst();
        if (there.isEmpty()) {
            return List.of();
        }
        List<String> primary = there.get().keys().stream()
                .filter(TableShape.Key::primary)
                .findFirst()
                .map(TableShape.Key::columns)
                .orElse(List.of());
        for (int i = 0; i < known.shapes().size(); i++) {
            int table = i;
            for (TableShape.Key key : known.shapes().get(i).keys()) {
                if (key.leadsTo().filter(to::equals).isPresent()
                        && key.columns().size() == primary.size()) {
                    return IntStream.range(0, primary.size())
                            .mapToObj(at ->
                                    new Pair(new ColumnOf(table, key.columns().get(at)), primary.get(at)))
                            .toList();
                }
            }
            List<String> ours = known.shapes().get(i).keys().stream()
                    .filter(TableShape.Key::primary)
                    .findFirst()
                    .map(TableShape.Key::columns)
                    .orElse(List.of());
            for (TableShape.Key key : there.get().keys()) {
                if (key.leadsTo().filter(known.shapes().get(i).name()::equals).isPresent()
                        && key.columns().size() == ours.size()) {
                    return IntStream.range(0, ours.size())
                            .mapToObj(at -> new Pair(
                                    new ColumnOf(table, ours.get(at)),
                                    key.columns().get(at)))
                            .toList();
                }
            }
        }
        for (int i = 0; i < known.shapes().size(); i++) {
            TableShape ours = known.shapes().get(i);
            for (TableShape.Key key : there.get().keys()) {
                if (key.leadsTo().isEmpty()
                        && key.columns().stream()
                                .allMatch(each -> ours.column(each).isPresent())) {
                    int table = i;
                    return key.columns().stream()
                            .map(each -> new Pair(new ColumnOf(table, each), each))
                            .toList();
                }
            }
        }
        return List.of();
    }

    /** Where rows are grouped from now on, numbers are summed, and a row stands for each value of the others. */
    private static DesignedQuery regrouped(DesignedQuery query, boolean was, Known known) {
        if (was || !query.grouped()) {
            return query;
        }
        List<ColumnOf> by = new ArrayList<>(query.by());
        List<Shown> shown = new ArrayList<>();
        for (Shown each : query.shown()) {
            if (each.how() != How.ITSELF || each.column().isEmpty()) {
                shown.add(each);
            } else if (grouped(each.column().get(), known) == How.SUM) {
                shown.add(new Shown(How.SUM, each.column(), "", each.as()));
            } else if (!by.contains(each.column().get())) {
                by.add(each.column().get());
            }
        }
        return new DesignedQuery(
                query.in(),
                query.table(),
                query.joins(),
                query.time(),
                query.per(),
                by,
                shown,
                query.filters(),
                query.order(),
                query.most());
    }

    /** With the sorts and types that the database tells now. */
    private static DesignedQuery known(DesignedQuery query, Known known) {
        return new DesignedQuery(
                query.in(),
                query.table(),
                query.joins(),
                query.time().map(time -> known.column(time.column())
                        .map(column -> new Time(time.column(), time.form(), column.typeName()))
                        .orElse(time)),
                query.per(),
                query.by(),
                query.shown(),
                query.filters().stream()
                        .map(filter -> known.column(filter.column())
                                .map(column -> new Filter(
                                        filter.column(), filter.op(), filter.value(), sort(filter, column.sort())))
                                .orElse(filter))
                        .toList(),
                query.order(),
                query.most());
    }

    private static QueryParameter.Sort sort(Filter filter, TableShape.Sort sort) {
        boolean text = filter.op() == Op.CONTAINS || filter.op() == Op.BEGINS;
        return text
                ? QueryParameter.Sort.TEXT
                : switch (sort) {
                    case NUMBER -> QueryParameter.Sort.NUMBER;
                    case STAMP -> QueryParameter.Sort.TIME;
                    case DATE -> QueryParameter.Sort.DATE;
                    case TRUTH -> QueryParameter.Sort.TRUTH;
                    default -> QueryParameter.Sort.TEXT;
                };
    }

    /** What the database says of it, if it says so soon: lines can be shown and saved without it. */
    private Known look(DesignedQuery query) {
        if (query.in().isEmpty()) {
            return new Known(List.of(), List.of(), "");
        }
        if (!looks.tryAcquire()) {
            return unknown(
                    query, "Databases that do not answer are waited for already. Columns are as they were designed.");
        }
        Future<Known> known = looking.submit(() -> {
            try {
                return asked(query);
            } finally {
                looks.release();
            }
        });
        try {
            return known.get(PATIENCE_MILLIS, TimeUnit.MILLISECONDS);
        } catch (TimeoutException late) {
            return unknown(
                    query,
                    "The database did not answer within " + PATIENCE_MILLIS / 1000
                            + " s. Columns are as they were designed; what they are now is shown once it answers.");
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            return unknown(query, "It was broken off.");
        } catch (ExecutionException odd) {
            Threads.report(odd.getCause());
            return unknown(query, "It cannot be told what is there: " + Threads.words(odd.getCause()) + ".");
        }
    }

    private static Known unknown(DesignedQuery query, String why) {
        return new Known(
                List.of(),
                query.tables().stream()
                        .map(each -> new TableShape(each, List.of(), List.of()))
                        .toList(),
                why);
    }

    private Known asked(DesignedQuery query) {
        try {
            TableReading reading = databases.tables(query.in());
            List<FoundTable> tables = reading.tables();
            List<TableShape> shapes = new ArrayList<>();
            String gone = "";
            for (TableName each : query.table().name().isEmpty() ? List.<TableName>of() : query.tables()) {
                Optional<TableShape> shape = reading.describe(each);
                gone = shape.isPresent()
                        ? gone
                        : "There is no table or view " + each.words() + " that this account may read, or not any more.";
                shapes.add(shape.orElse(new TableShape(each, List.of(), List.of())));
            }
            return new Known(tables, shapes, gone);
        } catch (StoreProblem away) {
            return unknown(query, away.getMessage());
        }
    }

    @PreDestroy
    void close() {
        looking.shutdownNow();
    }

    /** What the lines of a query offer. */
    void show(DesignedQuery query, Model model) {
        Known known = look(query);
        List<Offer> columns = columns(query, known, Set.of());
        model.addAttribute("d", query);
        model.addAttribute("lookTrouble", known.trouble());
        model.addAttribute("tables", tables(query, known));
        model.addAttribute("joinable", joinable(query, known));
        model.addAttribute("columns", columns);
        model.addAttribute("sorted", sorted(query, known));
        model.addAttribute(
                "times",
                columns(query, known, Set.of(TableShape.Sort.STAMP, TableShape.Sort.DATE, TableShape.Sort.NUMBER)));
        model.addAttribute("forms", List.of(Form.STAMP, Form.SECONDS, Form.MILLIS));
        model.addAttribute("pers", Per.values());
        model.addAttribute("ops", Op.values());
        model.addAttribute(
                "hows",
                Set.copyOf(List.of(How.values())).stream()
                        .filter(each -> each != How.COMPUTED)
                        .sorted()
                        .toList());
        model.addAttribute(
                "theirs",
                IntStream.range(1, query.joins().size() + 1)
                        .mapToObj(table -> columns.stream()
                                .filter(each -> each.key().startsWith(table + "."))
                                .map(each -> each.key().substring(each.key().indexOf('.') + 1))
                                .toList())
                        .toList());
    }

    /** What it can be sorted by: what is in its answer. */
    private static List<String> sorted(DesignedQuery query, Known known) {
        List<String> names = query.columnsOfAnswer();
        return names.isEmpty() && !known.shapes().isEmpty()
                ? known.shapes().get(0).columns().stream()
                        .map(TableShape.Column::name)
                        .toList()
                : names;
    }

    private static List<Offer> tables(DesignedQuery query, Known known) {
        List<Offer> tables = known.tables().stream()
                .map(each -> new Offer(key(each.name()), each.name().words(), ""))
                .collect(Collectors.toCollection(ArrayList::new));
        for (TableName each : query.tables()) {
            if (!each.name().isEmpty()
                    && tables.stream().noneMatch(table -> table.key().equals(key(each)))) {
                tables.add(new Offer(key(each), each.words(), ""));
            }
        }
        return tables;
    }

    /** Tables to which a key leads first. */
    private static List<Offer> joinable(DesignedQuery query, Known known) {
        Set<TableName> led = known.shapes().stream()
                .flatMap(shape -> shape.keys().stream())
                .flatMap(key -> key.leadsTo().stream())
                .collect(Collectors.toSet());
        return tables(query, known).stream()
                .map(each -> led.contains(table(each.key()))
                        ? new Offer(each.key(), each.words(), "A key leads there")
                        : new Offer(each.key(), each.words(), "Others"))
                .sorted(java.util.Comparator.comparing(Offer::group))
                .toList();
    }

    /** Columns of these sorts, or of all; those that are named in the query too, whatever they are. */
    private static List<Offer> columns(DesignedQuery query, Known known, Set<TableShape.Sort> sorts) {
        List<Offer> columns = new ArrayList<>();
        for (int i = 0; i < known.shapes().size(); i++) {
            int table = i;
            TableShape shape = known.shapes().get(i);
            shape.columns().stream()
                    .filter(each -> sorts.isEmpty() || sorts.contains(each.sort()))
                    .forEach(each -> columns.add(new Offer(
                            key(new ColumnOf(table, each.name())),
                            each.name(),
                            query.joins().isEmpty() ? "" : shape.name().name())));
        }
        List<ColumnOf> named = new ArrayList<>(query.by());
        query.time().ifPresent(each -> named.add(each.column()));
        query.shown().forEach(each -> each.column().ifPresent(named::add));
        query.filters().forEach(each -> named.add(each.column()));
        query.joins().forEach(join -> join.on().forEach(pair -> named.add(pair.here())));
        for (ColumnOf each : named) {
            boolean offered = columns.stream().anyMatch(column -> column.key().equals(key(each)));
            if (!offered
                    && (sorts.isEmpty()
                            || query.time()
                                    .filter(time -> time.column().equals(each))
                                    .isPresent())) {
                columns.add(new Offer(
                        key(each),
                        each.column()
                                + (known.column(each).isPresent()
                                                || known.trouble().length() > 0
                                        ? ""
                                        : " (not there)"),
                        "Not there now"));
            }
        }
        return columns;
    }
}
