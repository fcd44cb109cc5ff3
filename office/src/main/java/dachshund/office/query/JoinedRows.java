package dachshund.office.query;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.JoinedQuery;
import dachshund.core.reader.Period;
import dachshund.core.reader.Periods;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.links.heavy.JoinJob;
import dachshund.links.jdbc.ErrorPlace;
import dachshund.office.heavy.Heavy;
import dachshund.office.heavy.HeavyJoin;
import dachshund.office.own.DachshundSettings;
import java.io.IOException;
import java.time.Duration;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.function.Consumer;
import java.util.regex.Pattern;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.stereotype.Component;

/**
 * One SQL over what several queries give: each is asked of its own engine here, and its rows go to the second process, where a
 * DuckDB that sees nothing else joins them.
 */
@Component
class JoinedRows {

    static final String NO_PARTS = "Add the saved queries that are joined, each with a name.";

    private static final Pattern NAME = Pattern.compile("[A-Za-z_][A-Za-z0-9_]{0,40}");
    /** How DuckDB says where the trouble is (seen of its version 1). */
    private static final List<Pattern> PLACES = List.of(
            Pattern.compile("syntax error at or near \"(?<near>[^\"]+)\""),
            Pattern.compile("column named \"(?<word>[^\"]+)\""),
            Pattern.compile("Referenced (?:column|table) \"(?<word>[^\"]+)\""),
            Pattern.compile("Table with name (?<word>\\w+) does not exist"),
            Pattern.compile("Function with name (?<word>\\w+) does not exist"));

    private static final List<TableShape.Column> PERIODS = List.of(
            new TableShape.Column("name", "text", TableShape.Sort.TEXT, false),
            new TableShape.Column("start", "time", TableShape.Sort.STAMP, false),
            new TableShape.Column("begins", "time", TableShape.Sort.STAMP, false),
            new TableShape.Column("ends", "time", TableShape.Sort.STAMP, false));

    private final Heavy heavy;
    private final ZoneId zone;

    @Autowired
    JoinedRows(Heavy heavy, DachshundSettings settings) {
        this(heavy, settings.zone());
    }

    JoinedRows(Heavy heavy, ZoneId zone) {
        this.heavy = heavy;
        this.zone = zone;
    }

    long give(
            QueryText text,
            Map<String, Asked> parts,
            List<Object> values,
            Duration limit,
            long most,
            TableReading.Taker taker)
            throws StoreProblem, QueryProblem {
        if (parts.isEmpty()) {
            throw new QueryProblem(NO_PARTS);
        }
        List<Object> bound = new ArrayList<>();
        List<String> marks = new ArrayList<>();
        Map<String, Periods> periods = new LinkedHashMap<>();
        for (Object value : values) {
            if (value instanceof Periods table) {
                String name = "periods_of_window_" + (periods.size() + 1);
                periods.put(name, table);
                marks.add(name);
            } else {
                bound.add(value);
                marks.add("?");
            }
        }
        long until = System.nanoTime() + limit.toNanos();
        try (HeavyJoin join = heavy.join(zone, text.with(marks), limit, most)) {
            for (Map.Entry<String, Asked> each : parts.entrySet()) {
                part(each.getKey(), each.getValue(), left(until), join, taker::running);
            }
            for (Map.Entry<String, Periods> each : periods.entrySet()) {
                join.table(table(each.getKey(), PERIODS));
                for (Period period : each.getValue().all()) {
                    join.row(Arrays.asList(period.name(), period.from(), period.from(), period.to()));
                }
            }
            taker.running(join::breakOff);
            return join.ask(bound, taker(taker));
        } catch (HeavyJoin.Refused refused) {
            String sentence =
                    refused.getMessage().replaceAll("\\s*LINE \\d+:.*$", "").replaceAll("([^.!?])$", "$1.");
            throw ErrorPlace.in(sentence, text, marks, PLACES).orElseGet(() -> new QueryProblem(sentence));
        } catch (IOException cannot) {
            throw new StoreProblem(StoreProblem.Kind.AWAY, -1, cannot.getMessage(), cannot);
        }
    }

    private static Duration left(long until) throws StoreProblem {
        long nanos = until - System.nanoTime();
        if (nanos <= 0) {
            throw new StoreProblem(
                    StoreProblem.Kind.BUSY,
                    -1,
                    "The parts took longer than this may take, and it was broken off. Ask for a shorter window.",
                    null);
        }
        return Duration.ofNanos(nanos);
    }

    private static JoinJob.Table table(String name, List<TableShape.Column> columns) {
        return new JoinJob.Table(
                name,
                columns.stream()
                        .map(each -> new JoinJob.Column(each.name(), type(each.sort())))
                        .toList());
    }

    /** Row by row from its own engine to the second process. */
    private static void part(String name, Asked asked, Duration limit, HeavyJoin join, Consumer<Runnable> running)
            throws StoreProblem, QueryProblem, IOException {
        if (!NAME.matcher(name).matches()) {
            throw new QueryProblem(
                    "A part's name is a word of letters, digits and _, such as lots; \"" + name + "\" is none.");
        }
        IOException[] broke = new IOException[1];
        String[] twice = {""};
        long count;
        try {
            count = asked.give(limit, JoinedQuery.MOST_ROWS + 1L, new TableReading.Taker() {
                @Override
                public void running(Runnable breakOff) {
                    running.accept(breakOff);
                }

                @Override
                public void columns(List<TableShape.Column> columns) {
                    Set<String> names = new HashSet<>();
                    columns.forEach(each ->
                            twice[0] = names.add(each.name().toLowerCase(Locale.ROOT)) ? twice[0] : each.name());
                    try {
                        if (twice[0].isEmpty()) {
                            join.table(table(name, columns));
                        }
                    } catch (IOException gone) {
                        broke[0] = gone;
                    }
                }

                @Override
                public boolean row(List<Object> cells) {
                    try {
                        if (broke[0] == null && twice[0].isEmpty()) {
                            join.row(cells);
                            return true;
                        }
                    } catch (IOException gone) {
                        broke[0] = gone;
                    }
                    return false;
                }
            });
        } catch (QueryProblem problem) {
            throw new QueryProblem("In the part " + name + ": " + problem.getMessage());
        } catch (StoreProblem problem) {
            throw new StoreProblem(problem.kind(), -1, "In the part " + name + ": " + problem.getMessage(), problem);
        }
        if (broke[0] != null) {
            throw broke[0];
        }
        if (!twice[0].isEmpty()) {
            throw new QueryProblem("In the part " + name + ": two columns are called " + twice[0]
                    + ". Give one of them another name.");
        }
        if (count > JoinedQuery.MOST_ROWS) {
            throw new QueryProblem("The part " + name + " has more than " + JoinedQuery.MOST_ROWS
                    + " rows. Ask for a shorter window, or let it give fewer.");
        }
    }

    private static HeavyJoin.Taker taker(TableReading.Taker taker) {
        return new HeavyJoin.Taker() {
            @Override
            public void columns(List<JoinJob.Column> columns) {
                List<TableShape.Column> named = new ArrayList<>();
                for (JoinJob.Column each : columns) {
                    named.add(new TableShape.Column(
                            TableShape.free(named, each.name()),
                            each.usual().toLowerCase(Locale.ROOT),
                            sort(each.usual()),
                            true));
                }
                taker.columns(named);
            }

            @Override
            public boolean row(List<Object> cells) {
                return taker.row(cells);
            }
        };
    }

    private static String type(TableShape.Sort sort) {
        return switch (sort) {
            case NUMBER -> "DOUBLE";
            case TRUTH -> "BOOLEAN";
            case STAMP -> "TIMESTAMPTZ";
            case DATE -> "DATE";
            case CLOCK -> "TIME";
            default -> "VARCHAR";
        };
    }

    private static TableShape.Sort sort(String type) {
        String name = type.toUpperCase(Locale.ROOT);
        if (name.startsWith("DECIMAL")
                || name.equals("DOUBLE")
                || name.equals("FLOAT")
                || name.endsWith("INT")
                || name.endsWith("INTEGER")) {
            return TableShape.Sort.NUMBER;
        }
        return switch (name) {
            case "BOOLEAN" -> TableShape.Sort.TRUTH;
            case "TIMESTAMP WITH TIME ZONE" -> TableShape.Sort.STAMP;
            case "DATE" -> TableShape.Sort.DATE;
            case "TIME" -> TableShape.Sort.CLOCK;
            case "VARCHAR" -> TableShape.Sort.TEXT;
            default -> TableShape.Sort.OTHER;
        };
    }
}
