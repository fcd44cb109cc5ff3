package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.core.query.QueryDefinition;
import dachshund.office.definition.Definitions;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.Statement;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.time.temporal.TemporalAdjusters;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Questions without SQL: lines over tables, histories of tags, and one over several. */
class QueryLinesTest {

    private static final Site SITE = Site.demo();
    private static final ZoneId LONDON = ZoneId.of("Europe/London");

    /** What the table has: pellets and kWh of each ten minutes of this week. */
    private static final Map<Instant, double[]> MADE = new TreeMap<>();

    private static String orders;
    private static String laboratory;

    @BeforeAll
    static void fill() throws Exception {
        ZonedDateTime monday = LocalDate.now(LONDON)
                .with(TemporalAdjusters.previousOrSame(DayOfWeek.MONDAY))
                .atStartOfDay(LONDON);
        for (int i = 0; i < 7 * 144; i++) {
            MADE.put(monday.toInstant().plusSeconds(600L * i), new double[] {i % 7 * 100, i % 11 * 2.5});
        }
        try (Connection connection = DriverManager.getConnection(SITE.database.url("quillmoor_orders"));
                Statement statement = connection.createStatement()) {
            statement.execute(
                    "CREATE TABLE made (lot VARCHAR(8) PRIMARY KEY, line VARCHAR(8), at DATETIME, pellets INT, kwh DECIMAL(8,2), note VARCHAR(40))");
            try (PreparedStatement insert =
                    connection.prepareStatement("INSERT INTO made VALUES (?, ?, ?, ?, ?, NULL)")) {
                int i = 0;
                for (Map.Entry<Instant, double[]> each : MADE.entrySet()) {
                    insert.setString(1, "M" + i);
                    insert.setString(2, "PL" + (1 + i++ % 3));
                    insert.setObject(3, each.getKey().atOffset(ZoneOffset.UTC).toLocalDateTime());
                    insert.setInt(4, (int) each.getValue()[0]);
                    insert.setBigDecimal(5, BigDecimal.valueOf(each.getValue()[1]));
                    insert.addBatch();
                }
                insert.executeBatch();
            }
            statement.execute("CREATE TABLE quillmoor_lab.found (lot VARCHAR(8) PRIMARY KEY, moisture DECIMAL(4,2))");
            statement.execute("INSERT INTO quillmoor_lab.found SELECT CONCAT('M', seq), seq / 100 FROM seq_0_to_99");
        }
        orders = SITE.named("Orders");
        laboratory = SITE.named("Laboratory");
    }

    private static String query(String name) {
        return SITE.bean(Definitions.class).all(QueryDefinition.class).stream()
                .filter(each -> each.name().equals(name))
                .map(Definition::id)
                .findFirst()
                .orElseThrow();
    }

    /** Pellets and kWh per shift, this week: by lines, and by hand. */
    @Test
    void aQuestionIsDesignedInLinesAndEqualsTheSameOneByHand() throws Exception {
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/review/queries");
            actor.click("a[href='/review/queries/new']");
            actor.fill("#f-name", "Pellets and kWh a shift");
            actor.choose("#f-database", orders);
            actor.see("#table");
            actor.choose("#table", "quillmoor_orders\nmade");
            actor.see("#window");
            actor.fill("#window", "this week");
            actor.choose("#add-shown", "0.pellets");
            actor.see("#shown-0-as");
            actor.choose("#add-shown", "0.kwh");
            actor.see("#shown-1-as");
            actor.see("#grown-sql", "FROM quillmoor_orders.made");
            actor.choose("#per", "SHIFT");
            actor.see("#grown-sql", "JOIN :shifts AS p");
            actor.see("#grown-sql", "SUM(a.pellets)");
            actor.choose("#add-shown", "computed");
            actor.fill("#shown-2-formula", "kwh / nosuch");
            actor.see("#query-beside", "There is no input named nosuch");
            actor.fill("#shown-2-formula", "kwh / (pellets / 1000)");
            actor.fill("#shown-2-as", "kwh_a_tonne");
            actor.see("#grown-sql", "AS kwh_a_tonne");
            actor.click("#ask");
            actor.see("#query-rows", "the last");
            assertThat(actor.texts("#query-rows th"))
                    .containsExactly("shift", "begins", "pellets", "kwh", "kwh_a_tonne");
            Map<Instant, double[]> byHand = byHand();
            assertThat(actor.texts(".rows-of tbody tr td:nth-child(3)").stream()
                            .map(Double::valueOf)
                            .toList())
                    .isEqualTo(byHand.values().stream().map(each -> each[0]).toList());
            assertThat(actor.texts(".rows-of tbody tr td:nth-child(4)").stream()
                            .map(Double::valueOf)
                            .toList())
                    .isEqualTo(byHand.values().stream().map(each -> each[1]).toList());
            actor.click("#save-query");
            actor.see("#notice", "Saved as a draft");
            actor.see("#shown-2-as");
            // What it gives is drawn: its time, and each number beside it.
            actor.click("#draw-query");
            actor.see(".readings", "kwh_a_tonne");
            assertThat(actor.texts(".readings [data-curve]")).hasSize(3);
            actor.see(".readings [data-curve='1'] [data-greatest]", ".");
            assertThat(actor.texts(".readings [data-curve='1'] [data-greatest]").get(0))
                    .isEqualTo(String.format(
                            "%.1f",
                            byHand.values().stream()
                                    .mapToDouble(each -> each[0])
                                    .max()
                                    .orElseThrow()));
            actor.go("/review/queries/" + query("Pellets and kWh a shift"));
            actor.see("#shown-2-as");
            // A condition with a parameter, which whoever asks it may set.
            actor.choose("#add-filter", "0.line");
            actor.fill("#filter-0-value", ":line");
            actor.fill("#start-line", "PL2");
            actor.click("#ask");
            actor.see("#query-rows", "the last");
            assertThat(actor.texts(".rows-of tbody tr td:nth-child(3)").stream()
                            .mapToDouble(Double::parseDouble)
                            .sum())
                    .isLessThan(byHand.values().stream()
                            .mapToDouble(each -> each[0])
                            .sum());
            actor.click("#as-sql");
            actor.see("#notice", "It is SQL now");
            assertThat(actor.see("#sql").getDomProperty("value")).contains("JOIN :shifts AS p", "a.line = :line");
            actor.click("#ask");
            actor.see("#query-rows", "the last");
            assertThat(actor.complaints()).isEmpty();
        }
        assertThat(SITE.bean(Definitions.class).all(QueryDefinition.class))
                .anyMatch(each -> each.name().equals("Pellets and kWh a shift"));
    }

    /** Shifts of the demo begin at 6, 14 and 22 o'clock in London. */
    private static Map<Instant, double[]> byHand() {
        Map<Instant, double[]> shifts = new TreeMap<>();
        MADE.forEach((at, values) -> {
            ZonedDateTime local = at.atZone(LONDON);
            int hour = local.getHour();
            ZonedDateTime begins = (hour < 6 ? local.minusDays(1) : local)
                    .withHour(hour < 6 || hour >= 22 ? 22 : hour < 14 ? 6 : 14)
                    .withMinute(0);
            double[] sums = shifts.computeIfAbsent(begins.toInstant(), none -> new double[2]);
            sums[0] += values[0];
            sums[1] += values[1];
        });
        return shifts;
    }

    /** Laboratory rows of one database beside lots of another, and the pages of both ways. */
    @Test
    void laboratoryRowsAreJoinedToLotsOfAnotherDatabase() throws Exception {
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        String lots = saved(
                engineer,
                "Made lots",
                "way",
                "LINES",
                "database",
                orders,
                "table",
                "quillmoor_orders\nmade",
                "time",
                "0.at",
                "window",
                "this week");
        String found =
                saved(engineer, "Found in lots", "way", "SQL", "database", laboratory, "sql", "SELECT * FROM found");
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/review/queries/new?way=JOINED");
            actor.fill("#f-name", "Moisture of the lines");
            actor.choose("#add-part", lots);
            actor.see("#part-0-name");
            actor.choose("#add-part", found);
            actor.see("#part-1-name");
            assertThat(actor.see("#part-1-name").getDomProperty("value")).isEqualTo("found_in_lots");
            actor.fill("#part-1-name", "found");
            actor.fillAndLeave(
                    "#sql",
                    "SELECT line, COUNT(*) AS lots, AVG(moistur) AS moisture\nFROM made_lots JOIN found USING (lot)\nWHERE line <> :not GROUP BY line ORDER BY line");
            actor.fill("#start-not", "PL3");
            actor.fill("#window", "this week");
            actor.click("#ask");
            actor.see("#query-rows .field-problem", "moistur");
            assertThat(actor.see("#query-rows mark").getText()).isEqualTo("moistur");
            actor.fillAndLeave(
                    "#sql",
                    "SELECT line, COUNT(*) AS lots, AVG(moisture) AS moisture\nFROM made_lots JOIN found USING (lot)\nWHERE line <> :not GROUP BY line ORDER BY line");
            actor.click("#ask");
            actor.see("#query-rows", "the last");
            assertThat(actor.texts(".rows-of tbody tr td:nth-child(1)")).containsExactly("PL1", "PL2");
            assertThat(actor.texts(".rows-of tbody tr td:nth-child(2)")).containsExactly("34", "33");
            actor.click("#save-query");
            actor.see("#notice", "Saved as a draft");
            assertThat(actor.complaints()).isEmpty();
        }
        assertThat(engineer.get("/review/queries/" + SITE.named("Moisture of the lines") + "/rows.csv")
                        .body())
                .contains("line,lots,moisture")
                .contains("PL1,34,0.495");
        // What it needs is not removed, and what is released alone says what is missing.
        assertThat(engineer.post("/review/queries/" + lots + "/remove").body()).doesNotContain("Error");
        assertThat(SITE.bean(Definitions.class).find(lots)).isPresent();
    }

    private static String saved(Visitor visitor, String name, String... fields) throws Exception {
        String[] all = java.util.stream.Stream.concat(
                        java.util.stream.Stream.of("name", name), java.util.stream.Stream.of(fields))
                .toArray(String[]::new);
        visitor.post("/review/queries", all);
        return SITE.named(name);
    }

    @Test
    void theHistoryOfTagsIsAQuestionToo() throws Exception {
        try (Actor actor = new Actor(SITE).signIn("engineer", "engineer-demo")) {
            actor.go("/review/queries/new?way=TAGS");
            actor.fill("#f-name", "Outlet of the dryer");
            actor.fill("#pick-words", "drying outlet temperature");
            actor.click("#query-picks .pick");
            actor.see(".chip", "Outlet temperature");
            actor.fill("#window", "last 10 min");
            actor.choose("#mode", "LATEST");
            actor.see("#shape");
            actor.click("#ask");
            actor.see("#query-rows", "the last");
            assertThat(actor.texts(".rows-of tbody tr")).hasSize(1);
            actor.choose("#mode", "AGGREGATED");
            actor.see("#add-calc");
            actor.choose("#add-calc", "percentile");
            actor.see("#calc-1-with");
            actor.fill("#calc-1-with", "101");
            actor.click("#ask");
            actor.see("#query-rows .field-problem", "a percentile is from 0 to 100");
            actor.fill("#calc-1-with", "90");
            actor.choose("#t-per", "");
            actor.see("#every");
            actor.fill("#every", "1 min");
            actor.click("#ask");
            actor.see("#query-rows", "the last");
            assertThat(actor.texts("#query-rows th").stream()
                            .map(each -> each.replaceAll(".* ", ""))
                            .collect(Collectors.toList()))
                    .containsExactly("time", "time_weighted_average", "percentile_90");
            assertThat(actor.texts(".rows-of tbody tr").size()).isBetween(10, 11);
            actor.click("#save-query");
            actor.see("#notice", "Saved as a draft");
            assertThat(actor.complaints()).isEmpty();
        }
    }

    /** A database that is gone takes no line away. */
    @Test
    void linesAreThereWithoutTheirDatabase() throws Exception {
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        String id = "00000000";
        String[] lines = {
            "way",
            "LINES",
            "database",
            id,
            "was-database",
            id,
            "table",
            "s\nmade",
            "was-table",
            "s\nmade",
            "time",
            "0.at",
            "per",
            "SHIFT",
            "shown-0-how",
            "SUM",
            "shown-0-column",
            "0.kg",
            "filter-0-column",
            "0.line",
            "filter-0-op",
            "EQUALS",
            "filter-0-value",
            "PL1"
        };
        assertThat(engineer.post("/review/queries/lines", lines).body())
                .contains("field-problem", "SUM(a.kg)", "JOIN :shifts", "a.line = &#39;PL1&#39;");
    }

    /** A number that is none takes nothing else out of the form. */
    @Test
    void whatCannotBeReadIsSaidAndTheRestStays() throws Exception {
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        String[] lines = {
            "way",
            "LINES",
            "name",
            "Kept name",
            "database",
            orders,
            "table",
            "quillmoor_orders\nmade",
            "filter-0-column",
            "0.line",
            "filter-0-op",
            "EQUALS",
            "filter-0-value",
            "PL7",
            "most",
            "many"
        };
        assertThat(engineer.post("/review/queries", lines).body())
                .contains("&quot;many&quot; is no number of rows", "Kept name", "PL7");
        String[] tags = {
            "way", "TAGS", "name", "Kept tags", "t-words", "outlet", "window", "today", "mode", "EVEN", "every", "soon"
        };
        assertThat(engineer.post("/review/queries", tags).body())
                .contains("a number and a unit", "Kept tags", "outlet");
    }

    @Test
    void whatIsBadIsRefusedWithASentence() throws Exception {
        Visitor engineer = new Visitor(SITE).signIn("engineer", "engineer-demo");
        String[][] bad = {
            {"Choose the database", "way", "LINES"},
            {"Choose the table", "way", "LINES", "database", orders},
            {"denied to user", "way", "LINES", "database", orders, "table", "nowhere\nnothing"},
            {
                "\"x\" is no number",
                "way",
                "LINES",
                "database",
                orders,
                "table",
                "quillmoor_orders\nmade",
                "filter-0-column",
                "0.pellets",
                "filter-0-op",
                "EQUALS",
                "filter-0-value",
                "x"
            },
            {"no number of rows", "way", "LINES", "database", orders, "table", "quillmoor_orders\nmade", "most", "-1"},
            {
                "choose the column for the window",
                "way",
                "LINES",
                "database",
                orders,
                "table",
                "quillmoor_orders\nmade",
                "per",
                "DAY"
            },
            {
                "is nothing that can be made",
                "way",
                "LINES",
                "database",
                orders,
                "table",
                "quillmoor_orders\nmade",
                "shown-0-how",
                "DROP"
            },
            {"Choose tags", "way", "TAGS", "window", "today"},
            {"No tag fits", "way", "TAGS", "window", "today", "t-words", "unicorn", "calc-0-key", "increase"},
            {"what is computed", "way", "TAGS", "window", "today", "t-words", "outlet"},
            {
                "longer than nothing",
                "way",
                "TAGS",
                "window",
                "today",
                "t-words",
                "outlet",
                "mode",
                "EVEN",
                "every",
                "0 s"
            },
            {"Add the saved queries", "way", "JOINED", "window", "today", "sql", "SELECT 1"},
            {
                "not there any more",
                "way",
                "JOINED",
                "window",
                "today",
                "sql",
                "SELECT 1",
                "part-0-name",
                "a",
                "part-0-query",
                "nowhere"
            },
        };
        for (String[] each : bad) {
            String[] fields = java.util.Arrays.copyOfRange(each, 1, each.length);
            assertThat(engineer.post("/review/queries/try", fields).body())
                    .as(String.join(" ", fields))
                    .contains(each[0].replace("\"", "&quot;"));
            assertThat(engineer.post("/review/queries/lines", fields).statusCode())
                    .as(String.join(" ", fields))
                    .isEqualTo(200);
        }
    }
}
