package dachshund.core.transaction;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.WrittenQuery;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.release.WhenCheck;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.StandardDialect;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** What follows a commit, and what follows another transaction: how it is written, and what of it cannot work. */
final class FollowingStepsTest {

    private static final Instant AT = Instant.parse("2026-11-29T06:00:00Z");

    private static final Wording JSON = new Wording(
            Wording.As.JSON,
            "",
            List.of(
                    new Step.Cell("lot", "after_lot", false),
                    new Step.Cell("kilos", "after_kilos + 0.5", false),
                    new Step.Cell("whole", "after_count", false),
                    new Step.Cell("good", "after_kilos > 1", false),
                    new Step.Cell("at", "after_fired", false),
                    new Step.Cell("none", "after_none", false)));

    /** One that follows another, changes rows of two databases, publishes and writes a line. */
    private static final TransactionDefinition NEWS = new TransactionDefinition(
            "cccc0003",
            "Lot news",
            "",
            List.of(new When.AfterTransaction("cccc0001")),
            Optional.empty(),
            List.of(),
            "dddd0001",
            Isolation.READ_COMMITTED,
            true,
            List.of(
                    new Step.Put(
                            "stock",
                            "",
                            Step.Deed.INSERT,
                            "stock",
                            List.of(new Step.Cell("lot", "after_lot", false)),
                            1,
                            1,
                            "",
                            "dddd0002"),
                    new Step.Statement("old", "", "DELETE FROM stock WHERE lot = :after_before", 0, 5, "", "dddd0002"),
                    new Step.Publish("tell", "", "aaaa0001", "works/lots/{after_lot}", JSON, true),
                    new Step.Append(
                            "list",
                            "",
                            "dddd0003",
                            "lots {after_lot}.csv",
                            new Wording(Wording.As.CSV, "", JSON.cells()))),
            Answer.NONE,
            Policy.USUAL,
            List.of("after_lot"));

    private static Values values(String lot) {
        return new Values(new Prepared(NEWS, id -> new StandardDialect()), AT)
                .put("after_lot", lot)
                .put("after_kilos", new BigDecimal("812.5"))
                .put("after_count", 3.0)
                .put("after_fired", AT)
                .put("after_none", null);
    }

    private static List<Todo> todo(Values values, Step... steps) throws Exception {
        TransactionDefinition design = NEWS.withSteps(List.of(steps));
        Prepared prepared = new Prepared(design, id -> new StandardDialect());
        Execution.Doors none = (database, query, bound, most) -> null;
        return new Execution(design, prepared, none, values, System::nanoTime).within(null, step -> {});
    }

    @Test
    void aMessageIsJsonThatAnyReaderUnderstands() throws Exception {
        Todo.Publish told =
                (Todo.Publish) todo(values("PL1/7+#"), NEWS.steps().get(2)).get(0);
        assertThat(told.topic()).isEqualTo("works/lots/PL1_7__"); // one level, whatever the value is
        assertThat(told.retained()).isTrue();
        assertThat(new ObjectMapper().readTree(told.payload()))
                .isEqualTo(
                        new ObjectMapper()
                                .readTree(
                                        "{\"lot\":\"PL1/7+#\",\"kilos\":813,\"whole\":3,\"good\":true,\"at\":\"2026-11-29T06:00:00Z\",\"none\":null}"));
    }

    @Test
    void aLineIsCsvAndItsFileStaysInItsFolder() throws Exception {
        Todo.Append line =
                (Todo.Append) todo(values("../\"=1,2\n"), NEWS.steps().get(3)).get(0);
        assertThat(line.file()).isEqualTo("lots _\"=1,2_.csv".replaceAll("[\"=,]", "_"));
        assertThat(line.header()).isEqualTo("lot,kilos,whole,good,at,none");
        assertThat(line.line()).isEqualTo("\"../\"\"=1,2\n\",813,3,true,2026-11-29T06:00:00Z,");
        Todo.Append formula =
                (Todo.Append) todo(values("=HYPERLINK(1)"), NEWS.steps().get(3)).get(0);
        assertThat(formula.line()).startsWith("'=HYPERLINK(1),");
    }

    private static final TransactionCheck.Around AROUND = new TransactionCheck.Around() {
        @Override
        public Dialect dialect(String database) {
            return new StandardDialect();
        }

        @Override
        public Optional<TagInfo> tag(TagRef tag) {
            return Optional.empty();
        }

        @Override
        public Optional<QueryDefinition> query(String id) {
            return id.equals("eeee0001")
                    ? Optional.of(new QueryDefinition(
                                    id,
                                    "Stock",
                                    "",
                                    new WrittenQuery("dddd0009", "SELECT a FROM t WHERE b = :lot"),
                                    "",
                                    List.of())
                            .fitted())
                    : Optional.empty();
        }

        @Override
        public OnEquipment equipment(TransactionDefinition of) {
            return OnEquipment.of(of, OnEquipmentTest.PLANT);
        }
    };

    @Test
    void aSavedQueryGetsWhatIsCalledLikeItsParameters() throws Exception {
        Step.LookUp stock = new Step.LookUp("stock", "", "", "", Step.Rows.ONE, "eeee0001");
        assertThat(problems(stock))
                .containsExactly(
                        "0 The saved query asks for lot, and nothing here is called so. A step that computes it can.");
        assertThat(problems(NEWS.withSteps(List.of(new Step.Compute("lot", "", "after_lot"), stock))))
                .isEmpty();
        assertThat(problems(new Step.LookUp("stock", "", "", "", Step.Rows.ONE, "gone")))
                .containsExactly("0 The saved query is not there any more. Choose another one, or SQL.");
        TransactionDefinition design = NEWS.withSteps(
                List.of(new Step.Compute("lot", "", "after_lot"), stock, new Step.Note("n", "", "stock_a")));
        List<String> asked = new ArrayList<>();
        List<StepRun> runs = new ArrayList<>();
        new Execution(
                        design,
                        new Prepared(design, id -> new StandardDialect()),
                        new Execution.Doors() {
                            @Override
                            public Session.Found ask(String database, QueryText query, List<Object> bound, int most) {
                                throw new IllegalStateException("not asked");
                            }

                            @Override
                            public Session.Found saved(String query, Execution.Parameters parameters, int most)
                                    throws QueryProblem {
                                asked.add(query + " " + parameters.of("lot") + " " + most);
                                return new Session.Found(List.of("a"), List.of(List.of(new BigDecimal("7"))));
                            }
                        },
                        values("PL1-7"),
                        System::nanoTime)
                .within(null, runs::add);
        assertThat(asked).containsExactly("eeee0001 PL1-7 2");
        assertThat(runs.get(1).values()).containsEntry("lot", "PL1-7").containsEntry("→ stock_a", "7");
        assertThat(runs.get(2).said()).isEqualTo("7");
    }

    private static List<String> problems(TransactionDefinition design) {
        return TransactionCheck.problems(design, AROUND).stream()
                .map(each -> each.step() + " " + each.sentence())
                .toList();
    }

    private static List<String> problems(Step step) {
        return problems(NEWS.withSteps(List.of(step)).withPolicy(Policy.USUAL, List.of()));
    }

    @Test
    void whatCannotWorkIsSaidAtItsStep() {
        assertThat(problems(NEWS)).isEmpty();
        Wording nothing = new Wording(Wording.As.JSON, "", List.of());
        assertThat(problems(new Step.Publish("p", "", "", "", nothing, false)))
                .containsExactly(
                        "0 Choose the broker to which it is published.",
                        "0 Write the topic, such as works/lots/{lot}.",
                        "0 Say what is written.");
        assertThat(problems(new Step.Publish("p", "", "a", "works/+/{nosuch}/{", JSON, false)))
                .anyMatch(each -> each.startsWith("0 A topic to publish to has no + and no #"))
                .anyMatch(each -> each.startsWith("0 There is no input named nosuch."))
                .contains("0 A bracket { is not closed, or } was not opened.");
        assertThat(problems(
                        new Step.Append("a", "", "", "../x.csv", new Wording(Wording.As.TEXT, "nosuch", List.of()))))
                .contains("0 Choose the folder in which the file is.")
                .anyMatch(each -> each.startsWith("0 The name of a file has letters"))
                .anyMatch(each -> each.startsWith("0 There is no input named nosuch."));
        Step.Cell twice = new Step.Cell("lot", "after_lot", false);
        assertThat(problems(new Step.Publish(
                        "p", "", "a", "t", new Wording(Wording.As.JSON, "", List.of(twice, twice)), false)))
                .containsExactly("0 The name lot stands there twice.");
        List<Step> third = new ArrayList<>(NEWS.steps());
        third.add(new Step.Statement("three", "", "DELETE FROM t WHERE a = 1", 0, 1, "", "dddd0009"));
        assertThat(problems(NEWS.withSteps(third)))
                .anyMatch(each -> each.startsWith("4 Rows are changed in a third database here"));
        assertThat(problems(NEWS.withDatabase("dddd0002", Isolation.READ_COMMITTED, true)))
                .anyMatch(each -> each.startsWith("0 This is its own database"));
        assertThat(problems(NEWS.withDatabase("dddd0001", Isolation.READ_COMMITTED, false)))
                .anyMatch(each -> each.startsWith("-1 It changes rows of two databases."))
                .anyMatch(each -> each.startsWith("-1 It follows another transaction"));
        assertThat(TransactionCheck.advice(NEWS))
                .anyMatch(each -> each.startsWith("It changes rows of two databases: both take part"))
                .anyMatch(each -> each.startsWith("A line of a file may stand there twice"));
    }

    @Test
    void itFollowsOneThatIsChosenAndNotItself() {
        assertThat(when("cccc0001")).isEmpty();
        assertThat(when("")).containsExactly("Choose the transaction after which it is done.");
        assertThat(when("cccc0003")).containsExactly("It would be done after itself, again and again.");
    }

    private static List<String> when(String first) {
        return WhenCheck.problems(
                NEWS.withWhens(List.of(new When.AfterTransaction(first))), tag -> Optional.empty(), ShiftCalendar.NONE);
    }

    @Test
    void theGoldenDocumentIsUnderstoodAndStillWritten() throws Exception {
        try (var golden = FollowingStepsTest.class.getResourceAsStream("/golden/transaction-follows-2.json")) {
            String text = new String(golden.readAllBytes(), StandardCharsets.UTF_8);
            ObjectMapper json = new ObjectMapper();
            assertThat(DefinitionCodec.read(text)).isEqualTo(NEWS);
            assertThat(json.readTree(DefinitionCodec.write(NEWS))).isEqualTo(json.readTree(text));
        }
    }
}
