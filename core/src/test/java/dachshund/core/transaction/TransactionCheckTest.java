package dachshund.core.transaction;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.aggregate.Aggregate;
import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.Named;
import dachshund.core.kind.TransactionKind;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.StandardDialect;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** What a transaction is made of, read before anything of it is done. */
class TransactionCheckTest {

    private static final TagRef NUMBER = new TagRef("aaaa0001", "number");
    private static final TagRef ECHO = new TagRef("aaaa0001", "echo");
    private static final TagRef LOT = new TagRef("aaaa0001", "lot");
    private static final TagRef FEED = new TagRef("aaaa0001", "feed");

    static final TransactionDefinition LOT_ENDS = new TransactionDefinition(
            "cccc0001",
            "Lot ends",
            "All that is to be done",
            List.of(new When.OnRequest(NUMBER, Optional.empty(), Optional.of(ECHO))),
            Optional.empty(),
            List.of(new Gathered("lot", LOT, Gathered.WhenBad.FAIL)),
            "dddd0001",
            Isolation.READ_COMMITTED,
            true,
            List.of(
                    new Step.LookUp(
                            "ord",
                            "",
                            "",
                            "SELECT order_no, feed FROM orders WHERE lot = :lot FOR UPDATE",
                            Step.Rows.ONE),
                    new Step.Put(
                            "record",
                            "ord_order_no > 0",
                            Step.Deed.INSERT,
                            "lot",
                            List.of(
                                    new Step.Cell("lot_id", "lot", false),
                                    new Step.Cell("order_no", "ord_order_no + 1", false)),
                            1,
                            1,
                            ""),
                    new Step.Statement(
                            "progress", "", "UPDATE orders SET n = n + 1 WHERE no = :ord_order_no", 1, 1, ""),
                    new Step.Compute("twice", "", "ord_feed * 2"),
                    new Step.WriteTag("feed", "", FEED, "twice", 0.5),
                    new Step.Note("said", "", "\"lot \" + lot")),
            new Answer(Optional.empty(), Optional.empty(), 1, 2, 3, "lot"),
            Policy.USUAL,
            List.of("lot"));

    private static Optional<TagInfo> tag(TagRef ref) {
        return Optional.of(new TagInfo(
                ref.address(),
                "",
                ref.address(),
                ref.address().equals("bit") ? DataKind.BOOLEAN : DataKind.NUMBER,
                "",
                "",
                !ref.equals(LOT) && !ref.equals(NUMBER)));
    }

    @Test
    void aBitTakesNoOtherCodesThanOneAndZero() {
        Optional<TagRef> bit = Optional.of(new TagRef("aaaa0001", "bit"));
        assertThat(problems(LOT_ENDS.withAnswer(new Answer(bit, Optional.empty(), 1, 2, 3, ""))))
                .containsExactly("-1 The tag of the code is a bit: let each of the three codes be 1 or 0.");
        assertThat(problems(LOT_ENDS.withAnswer(new Answer(bit, Optional.empty(), 1, 1, 0, ""))))
                .isEmpty();
        assertThat(problems(LOT_ENDS.withAnswer(new Answer(Optional.of(FEED), Optional.empty(), 1, 2, 3, ""))))
                .isEmpty();
    }

    static List<String> problems(TransactionDefinition design) {
        TransactionCheck.Around around = new TransactionCheck.Around() {
            @Override
            public Dialect dialect(String database) {
                return new StandardDialect();
            }

            @Override
            public Optional<TagInfo> tag(TagRef tag) {
                return TransactionCheckTest.tag(tag);
            }

            @Override
            public Optional<QueryDefinition> query(String id) {
                return Optional.empty();
            }

            @Override
            public OnEquipment equipment(TransactionDefinition of) {
                return OnEquipment.of(of, OnEquipmentTest.PLANT);
            }
        };
        return TransactionCheck.problems(design, around).stream()
                .map(each -> each.step() + " " + each.sentence())
                .toList();
    }

    private static TransactionDefinition with(Step... steps) {
        return LOT_ENDS.withSteps(List.of(steps));
    }

    @Test
    void oneThatWorksHasNoProblem() {
        assertThat(problems(LOT_ENDS)).isEmpty();
    }

    @Test
    void whatAStatementGivesIsKnownAfterItWhereItIsDoneOnce() {
        Step after = new Step.Compute("twice", "", "book_ticket * 2");
        assertThat(problems(with(new Step.Statement("book", "", "CALL book(:lot)", 0, 10, ""), after)))
                .isEmpty();
        assertThat(problems(with(after))).singleElement().asString().contains("no input named book_ticket");
        Step.LookUp many = new Step.LookUp("all_lots", "", "", "SELECT a FROM t", Step.Rows.MANY);
        assertThat(problems(with(many, new Step.Statement("book", "", "CALL book(:lot)", 0, 10, "all_lots"), after)))
                .singleElement()
                .asString()
                .contains("no input named book_ticket");
    }

    @Test
    void whatCannotWorkIsSaidAtItsStep() {
        assertThat(problems(with(new Step.Compute("a", "", "nosuch + 1"))))
                .containsExactly(
                        "0 There is no input named nosuch. The inputs are: equipment, fired, lot, request, run_id, site, transaction.");
        assertThat(problems(with(new Step.Compute("lot", "", "1"))))
                .containsExactly("0 The name lot is taken already.");
        assertThat(problems(with(new Step.Compute("1a", "", "1"))).get(0)).startsWith("0 A step needs a name");
        assertThat(problems(with(put(Step.Deed.UPDATE, new Step.Cell("a", "lot", false)))))
                .containsExactly("0 Tick the columns that tell which rows: without them, it would be every row.");
        assertThat(problems(with(put(Step.Deed.DELETE)))).containsExactly("0 Say which columns get what.");
        assertThat(problems(with(put(Step.Deed.INSERT, new Step.Cell("a", "", false)))))
                .containsExactly("0 Say what the column a gets.");
        assertThat(problems(with(new Step.Statement("a", "", "DROP TABLE lot", 0, 1, "")))
                        .get(0))
                .startsWith("0 A statement of a step begins with INSERT, UPDATE, DELETE or CALL, not with DROP");
        assertThat(problems(with(new Step.Statement("a", "", "UPDATE a SET b = 1; DELETE FROM a", 0, 1, "")))
                        .get(0))
                .startsWith("0 A query is one statement");
        assertThat(problems(with(new Step.LookUp("a", "", "", "UPDATE a SET b = 1", Step.Rows.ONE)))
                        .get(0))
                .startsWith("0 A query begins with SELECT");
        assertThat(problems(with(new Step.WriteTag("a", "", LOT, "1", 0))))
                .containsExactly("0 lot cannot be written: its source says that it is read only.");
        assertThat(problems(with(new Step.Statement("a", "", "DELETE FROM a WHERE b = :x_y", 0, 1, "x"))))
                .contains("0 No look-up before it is named x.");
        assertThat(problems(LOT_ENDS.withSteps(List.of()))).containsExactly("-1 It has no step: say what is done.");
        assertThat(problems(
                        LOT_ENDS.withWhens(List.of(new When.OnRequest(NUMBER, Optional.empty(), Optional.empty())))))
                .containsExactly(
                        "-1 Say which tag gets the number of a request once it is answered: the plant waits for it.");
        assertThat(problems(
                        LOT_ENDS.withWhens(List.of(LOT_ENDS.whens().get(0), new When.Every(Duration.ofSeconds(1))))))
                .containsExactly(
                        "-1 A request stands alone: with another When beside it, nobody could tell which of its runs are to be answered.");
        assertThat(problems(LOT_ENDS.withPolicy(Policy.USUAL, List.of("order"))))
                .containsExactly("-1 The ledger is to find runs by order, and nothing here is called so.");
    }

    private static Step.Put put(Step.Deed deed, Step.Cell... cells) {
        return new Step.Put("p", "", deed, "t", List.of(cells), 1, 1, "");
    }

    @Test
    void statementsAreComposedWithParametersAndNeverWithValues() throws QueryProblem {
        StepSql insert = StepSql.of(LOT_ENDS.steps().get(1), new StandardDialect());
        assertThat(insert.text().written())
                .isEqualTo("INSERT INTO \"lot\" (\"lot_id\", \"order_no\") VALUES (:lot, :order_no)");
        assertThat(insert.formula("order_no")).isEqualTo("ord_order_no + 1");
        assertThat(insert.formula("lot")).isEqualTo("lot");
        Step.Cell key = new Step.Cell("id", "lot", true);
        Step.Cell other = new Step.Cell("a?b", "\"it's; DROP\"", false);
        assertThat(StepSql.of(put(Step.Deed.UPDATE, key, other), new StandardDialect())
                        .text()
                        .written())
                .isEqualTo("UPDATE \"t\" SET \"a?b\" = :a_b WHERE \"id\" = :lot");
        assertThat(StepSql.of(put(Step.Deed.DELETE, key), new StandardDialect())
                        .text()
                        .written())
                .isEqualTo("DELETE FROM \"t\" WHERE \"id\" = :lot");
        assertThat(StepSql.of(put(Step.Deed.INSERT_OR_UPDATE, key, other), new StandardDialect())
                        .text()
                        .written())
                .isEqualTo("INSERT INTO \"t\" (\"id\", \"a?b\") VALUES (:lot, :a_b) ON CONFLICT (\"id\") DO UPDATE SET"
                        + " \"a?b\" = excluded.\"a?b\"");
        assertThatThrownBy(() -> QueryText.of("SELECT 1 FOR UPDATE")).isInstanceOf(QueryProblem.class);
        assertThat(QueryText.lookUp("SELECT 1 FOR UPDATE").statement()).isEqualTo("SELECT 1 FOR UPDATE");
        assertThatThrownBy(() -> QueryText.lookUp("SELECT 1 INTO OUTFILE 'x'")).isInstanceOf(QueryProblem.class);
    }

    @Test
    void valuesAreWhatFormulasGive() throws Exception {
        Values values =
                new Values(new Prepared(LOT_ENDS, id -> new StandardDialect()), Instant.parse("2026-11-28T12:00:00Z"));
        values.put("a", 2L).put("text", "x").put("none", null).put("at", Instant.EPOCH);
        assertThat(values.of("A * 1.5")).isEqualTo(new BigDecimal("3"));
        assertThat(values.of("text + \"-1\"")).isEqualTo("x-1");
        assertThat(values.of("none")).isNull();
        assertThat(values.of("at")).isEqualTo(Instant.EPOCH);
        assertThat(values.holds("a > 1")).isTrue();
        assertThat(values.holds("none")).isFalse();
        assertThatThrownBy(() -> values.of("none + 1"))
                .hasMessage("none + 1 cannot be computed: the input none has no value.");
        assertThatThrownBy(() -> values.of("a / 0")).hasMessageContaining("a / 0 cannot be computed");
        assertThatThrownBy(() -> values.holds("text")).hasMessageContaining("neither true nor false");
    }

    @Test
    void whatFollowsTheCommitIsReadBackAsItWas() {
        List<Todo> all = List.of(
                new Todo.Write("a", FEED, new BigDecimal("34.50"), 0.5),
                new Todo.Write("b", FEED, true, 0),
                new Todo.Write("c", FEED, "ä\"'\n", 0),
                new Todo.Write("d", FEED, Instant.parse("2026-11-28T12:00:00.123456789Z"), 0),
                new Todo.Publish("e", "aaaa0001", "works/lots/17", "{\"lot\":\"17\"}", true),
                new Todo.Append("f", "dddd0002", "lots 17.csv", "lot,kilos", "17,812.5"),
                new Todo.Change(
                        "g",
                        "dddd0003",
                        "UPDATE t SET a = :a",
                        List.of(
                                Arrays.asList(new BigDecimal("18446744073709551616"), null, "x"),
                                List.of(
                                        LocalDate.parse("1601-01-01"),
                                        LocalTime.parse("23:59:59.999999999"),
                                        Instant.parse("9999-12-31T23:59:59Z")))),
                new Todo.Begin("cccc0002", Map.of("lot", "17", "at", Instant.EPOCH)));
        assertThat(Todo.read(Todo.written(all, Instant.EPOCH))).isEqualTo(all);
        assertThat(Todo.at(Todo.written(all, Instant.EPOCH))).contains(Instant.EPOCH);
        assertThat(Todo.read(Todo.written(List.of(), Instant.EPOCH))).isEmpty();
        // As marks of before have it.
        String before = "[{\"step\":\"a\",\"source\":\"s\",\"address\":\"b\",\"tolerance\":0.5,\"number\":\"34.50\"}]";
        assertThat(Todo.read(before))
                .containsExactly(new Todo.Write("a", new TagRef("s", "b"), new BigDecimal("34.50"), 0.5));
        assertThat(Todo.at(before)).isEmpty();
        assertThatThrownBy(() -> Todo.written(
                        List.of(new Todo.Publish("e", "a", "t", "ä".repeat(Todo.MOST_BYTES / 2), false)),
                        Instant.EPOCH))
                .hasMessageContaining("longer than a mark has room for");
        assertThatThrownBy(() -> Todo.read("[{]")).hasMessageContaining("cannot be read");
        assertThatThrownBy(() -> Todo.read("[{\"step\":\"a\"}]")).hasMessageContaining("cannot be read");
    }

    @Test
    void itsDocumentIsReadBackAndStaysAsItIs() throws Exception {
        assertThat(DefinitionCodec.read(DefinitionCodec.write(LOT_ENDS))).isEqualTo(LOT_ENDS);
        try (var golden = TransactionCheckTest.class.getResourceAsStream("/golden/transaction-2.json")) {
            assertThat(golden).as(DefinitionCodec.write(LOT_ENDS)).isNotNull();
            assertThat(DefinitionCodec.read(new String(golden.readAllBytes(), StandardCharsets.UTF_8)))
                    .isEqualTo(LOT_ENDS);
        }
    }

    private static final TransactionDefinition RELEASED = new TransactionDefinition(
            "cccc0002",
            "Released",
            "",
            List.of(new When.OnNewRow(
                    "dddd0002",
                    "lab.sample",
                    List.of("lot_id", "sample_no"),
                    "taken",
                    Duration.ofMinutes(10),
                    0,
                    Duration.ofSeconds(5))),
            Optional.empty(),
            List.of(
                    new Gathered(
                            "kwh",
                            FEED,
                            Gathered.WhenBad.NOTHING,
                            Optional.of(new Over(
                                    Over.Since.BEFORE,
                                    Duration.ofDays(1),
                                    Optional.of(LOT),
                                    new Calculation.Increase(65536)))),
                    new Gathered(
                            "mean",
                            FEED,
                            Gathered.WhenBad.FAIL,
                            Optional.of(new Over(
                                    Over.Since.LAST_RUN,
                                    Duration.ofDays(1),
                                    Optional.empty(),
                                    new Calculation.OfPart13(Aggregate.TIME_AVERAGE))))),
            "dddd0001",
            Isolation.SERIALIZABLE,
            true,
            List.of(),
            Answer.NONE,
            Policy.USUAL.holding(true),
            List.of());

    @Test
    void theGoldenDocumentOfNewRowsIsUnderstoodAndStillWritten() throws Exception {
        try (var golden = TransactionCheckTest.class.getResourceAsStream("/golden/transaction-rows-2.json")) {
            String text = new String(golden.readAllBytes(), StandardCharsets.UTF_8);
            ObjectMapper json = new ObjectMapper();
            assertThat(DefinitionCodec.read(text)).isEqualTo(RELEASED);
            assertThat(json.readTree(DefinitionCodec.write(RELEASED))).isEqualTo(json.readTree(text));
        }
    }

    @Test
    void whatCannotBeComputedOrHeldIsSaid() {
        assertThat(problems(RELEASED)).containsExactly("-1 It has no step: say what is done.");
        TransactionDefinition without =
                RELEASED.withDatabase("dddd0001", Isolation.SERIALIZABLE, false).withWhens(List.of());
        assertThat(problems(without))
                .anyMatch(each -> each.startsWith("-1 mean goes on where the last run ended. Where that is"));
        assertThat(problems(LOT_ENDS.withPolicy(RELEASED.policy(), List.of())))
                .anyMatch(each -> each.startsWith("-1 A request of the plant is answered while it waits"));
        Over nobody = new Over(
                Over.Since.SAME, Duration.ofDays(1), Optional.empty(), new Calculation.OfPart13(Aggregate.END));
        assertThat(problems(RELEASED.withGathers(
                        List.of(new Gathered("x", FEED, Gathered.WhenBad.LAST_GOOD, Optional.of(nobody))))))
                .anyMatch(each -> each.startsWith("-1 Say which tag tells when the time of x begins"))
                .anyMatch(each -> each.startsWith("-1 x is computed of good values alone"));
        assertThat(TransactionCheck.advice(RELEASED.withGathers(List.of(Gathered.given("who")))))
                .anyMatch(each -> each.startsWith("Whoever asks for a run gives who"));
    }

    @Test
    void differencesAreSentences() {
        Named named = new Named(Map.of(), Map.of());
        TransactionDefinition changed = LOT_ENDS.withSteps(LOT_ENDS.steps().subList(0, 3))
                .withPolicy(Policy.USUAL.within(Duration.ofSeconds(3)), List.of("lot"));
        assertThat(new TransactionKind().changing(LOT_ENDS, changed, named))
                .contains("No step twice any more.", "No step feed any more.")
                .anyMatch(
                        sentence -> sentence.startsWith("Bounds from 10 s a run") && sentence.contains("to 3 s a run"));
        assertThat(new TransactionKind().introducing(LOT_ENDS, named))
                .anyMatch(sentence -> sentence.startsWith("Is done on a request with a number"))
                .contains("twice = ord_feed * 2.");
        TransactionDefinition first = LOT_ENDS.as("cccc0101", "Lot end PL1");
        TransactionDefinition second = LOT_ENDS.as("cccc0102", "Lot end PL2");
        Map<String, Definition> both = Map.of(first.id(), first, second.id(), second);
        assertThat(new TransactionKind()
                        .changing(
                                RELEASED.withWhens(List.of(new When.AfterTransaction(first.id()))),
                                RELEASED.withWhens(List.of(new When.AfterTransaction(second.id()))),
                                new Named(both, both)))
                .containsExactly("When from after each run of Lot end PL1 to after each run of Lot end PL2.");
        assertThat(new TransactionKind().introducing(RELEASED.withWhens(List.of(new When.AfterTransaction(""))), named))
                .anyMatch(each -> each.startsWith("Is done after each run of a transaction that is not chosen yet"));
        assertThatThrownBy(() -> Policy.USUAL.within(Duration.ofHours(1)))
                .hasMessage("The time limit of a run lies between 100 ms and 10 min.");
    }
}
