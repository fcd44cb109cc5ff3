package dachshund.core.query;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class QueryTextTest {

    @Test
    void parametersAreWhatStandsOutsideTextsNamesAndComments() throws QueryProblem {
        QueryText text = QueryText.of(
                """
                -- :no, it's not
                SELECT ':no ''it''s', "a:no", `b:no`, $$ :no $$, x::text, @y:=1 /* :no */
                FROM lots
                # :no
                WHERE lot = :lot AND ended >= :from AND (begun < :to OR lot = :lot);
                """);
        assertThat(text.names()).containsExactly("lot", "from", "to", "lot");
        assertThat(text.statement())
                .endsWith("WHERE lot = ? AND ended >= ? AND (begun < ? OR lot = ?)")
                .contains("':no ''it''s'", "x::text", "@y:=1");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "DELETE FROM lots",
                "UPDATE lots SET a = 1",
                "SET GLOBAL x = 1",
                "CALL p()",
                "COMMIT",
                "ATTACH 'a.db' AS b",
                "COPY lots TO '/tmp/x'",
                "SELECT 1; DELETE FROM lots",
                "SELECT 1; -- and\nDROP TABLE lots",
                "SELECT * FROM lots INTO OUTFILE '/tmp/x'",
                "SELECT * FROM lots INTO /* here */ DUMPFILE '/tmp/x'",
                "SELECT * FROM lots FOR\nUPDATE",
                "SELECT * FROM lots LOCK IN SHARE MODE",
                "SELECT /*!50000 1 INTO OUTFILE 'x' */",
                "SELECT 'open",
                "SELECT /* open",
                "SELECT $a$ open $b$",
                "SELECT ?",
                "  -- nothing",
                ""
            })
    void whatIsNoQueryIsRefusedWithASentence(String written) {
        QueryProblem problem = catchThrowableOfType(QueryProblem.class, () -> QueryText.of(written));
        assertThat(problem.getMessage()).endsWith(".");
        assertThat(problem.from()).isLessThanOrEqualTo(written.length());
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "select 1",
                "(SELECT 1) UNION (SELECT 2)",
                "WITH a AS (SELECT 1) SELECT * FROM a",
                "SELECT 'FOR UPDATE'",
                "VALUES (1)",
                "SELECT a FROM b;\n ; -- that's all"
            })
    void whatReadsIsTaken(String written) throws QueryProblem {
        assertThat(QueryText.of(written).names()).isEmpty();
    }

    /** PostgreSQL counts places in what it was sent, with {@code $1} for a parameter. */
    @Test
    void aPlaceThatTheEngineCountsIsFoundInWhatWasWritten() throws QueryProblem {
        QueryText text = QueryText.of("SELECT :lot, :window_of_it, nosuch FROM a");
        String sent = "SELECT $1, $2, nosuch FROM a";
        assertThat(text.written().substring(text.written(sent.indexOf("nosuch"), List.of("$1", "$2"))))
                .startsWith("nosuch FROM");
    }

    /** A parameter may stand for a whole table. */
    @Test
    void whatStandsForAParameterMayBeLong() throws QueryProblem {
        QueryText text = QueryText.of("\n SELECT ':lot' FROM :shifts p, nosuch WHERE x = :lot; -- :lot");
        List<String> instead = List.of("(VALUES ($1, $2))", "$3");
        String sent = text.with(instead);
        assertThat(sent).startsWith("SELECT ':lot' FROM (VALUES ($1, $2)) p, nosuch WHERE x = $3");
        assertThat(text.written().substring(text.written(sent.indexOf("nosuch") + 2, instead)))
                .startsWith("nosuch WHERE");
    }

    @Property
    void anyTextIsReadOrRefused(@ForAll String written) {
        try {
            QueryText text = QueryText.of(written);
            assertThat(text.places()).hasSameSizeAs(text.names());
        } catch (QueryProblem problem) {
            assertThat(problem.getMessage()).isNotBlank();
        }
    }

    @Test
    void valuesAreTyped() throws QueryProblem {
        ZoneId london = ZoneId.of("Europe/London");
        assertThat(new QueryParameter("n", QueryParameter.Sort.NUMBER, "").value(" 12.50 ", london))
                .isEqualTo(new BigDecimal("12.50"));
        assertThat(new QueryParameter("d", QueryParameter.Sort.DATE, "").value("2026-11-28", london))
                .isEqualTo(LocalDate.of(2026, 11, 28));
        assertThat(new QueryParameter("t", QueryParameter.Sort.TIME, "").value("2026-07-01 06:00:00", london))
                .isEqualTo(Instant.parse("2026-07-01T05:00:00Z"));
        assertThat(new QueryParameter("y", QueryParameter.Sort.TRUTH, "").value("Yes", london))
                .isEqualTo(true);
        assertThat(new QueryParameter("x", QueryParameter.Sort.TEXT, "").value(" a' OR 1=1 --", london))
                .isEqualTo(" a' OR 1=1 --");
    }

    @ParameterizedTest
    @CsvSource({"NUMBER,'1,5'", "NUMBER,''", "DATE,28.11.2026", "TIME,noon", "TRUTH,perhaps", "DATE,2026-02-30"})
    void aValueOfTheWrongKindIsToldWithItsParameter(QueryParameter.Sort sort, String typed) {
        QueryProblem problem = catchThrowableOfType(
                QueryProblem.class, () -> new QueryParameter("lot", sort, "").value(typed, ZoneOffset.UTC));
        assertThat(problem.getMessage()).contains("lot").endsWith(".");
    }

    @Test
    void parametersFollowTheText() {
        QueryParameter number = new QueryParameter("least", QueryParameter.Sort.NUMBER, "5");
        QueryDefinition query = new QueryDefinition(
                        "00000001",
                        "Q",
                        "",
                        new WrittenQuery("00000002", "SELECT :from, :least, :other, :least"),
                        "",
                        List.of(number))
                .fitted();
        assertThat(query.parameters())
                .containsExactly(number, new QueryParameter("other", QueryParameter.Sort.TEXT, ""));
        assertThat(query.hasWindow()).isTrue();
    }
}
