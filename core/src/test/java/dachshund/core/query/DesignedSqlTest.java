package dachshund.core.query;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

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
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TimeColumn.Form;
import dachshund.core.sql.StandardDialect;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;

/** What lines say, as SQL; the tests of the engines ask it. */
class DesignedSqlTest {

    private static final TableName LOTS = new TableName("", "order lot");

    private static ColumnOf column(String name) {
        return new ColumnOf(0, name);
    }

    private static Shown shown(How how, String column, String as) {
        return new Shown(how, Optional.of(column(column)), "", as);
    }

    private static DesignedQuery query(List<Shown> shown, List<Filter> filters, Optional<Per> per, List<Order> order) {
        return new DesignedQuery(
                "db",
                LOTS,
                List.of(new Join(new TableName("", "orders"), List.of(new Pair(column("order_no"), "order_no")), true)),
                Optional.of(new Time(column("ended"), Form.SECONDS, "bigint")),
                per,
                List.of(new ColumnOf(1, "product")),
                shown,
                filters,
                order,
                50);
    }

    private static String sql(DesignedQuery query) throws QueryProblem {
        return DesignedSql.of(query, new StandardDialect()).text();
    }

    private static String refusal(List<Shown> shown, List<Filter> filters, List<Order> order) {
        return catchThrowableOfType(QueryProblem.class, () -> sql(query(shown, filters, Optional.of(Per.SHIFT), order)))
                .getMessage();
    }

    @Test
    void linesReadAsASentenceAndAsSql() throws QueryProblem {
        DesignedQuery query = query(
                List.of(
                        shown(How.SUM, "kg", "pellets"),
                        shown(How.SUM, "kwh", ""),
                        new Shown(How.COMPUTED, Optional.empty(), "kwh / (pellets / 1000)", "kwh_per_tonne")),
                List.of(
                        new Filter(column("line"), Op.EQUALS, "PL1", QueryParameter.Sort.TEXT),
                        new Filter(column("kg"), Op.AT_LEAST, ":least", QueryParameter.Sort.NUMBER)),
                Optional.of(Per.SHIFT),
                List.of(new Order("pellets", true)));
        assertThat(sql(query))
                .isEqualTo(
                        """
                        SELECT p.name AS shift,
                               p.start AS begins,
                               b.product,
                               SUM(a.kg) AS pellets,
                               SUM(a.kwh) AS kwh,
                               (CAST(SUM(a.kwh) AS DOUBLE PRECISION) / NULLIF((CAST(SUM(a.kg) AS DOUBLE PRECISION) / 1000), 0)) AS kwh_per_tonne
                        FROM "order lot" AS a
                        LEFT JOIN orders AS b ON a.order_no = b.order_no
                        JOIN :shifts_s AS p ON a.ended >= p.begins AND a.ended < p.ends
                        WHERE a.ended >= :from_s
                          AND a.ended < :to_s
                          AND a.line = 'PL1'
                          AND a.kg >= :least
                        GROUP BY p.name, p.start, p.begins, b.product
                        ORDER BY pellets DESC LIMIT 50""");
        assertThat(query.words(new dachshund.core.definition.Named(java.util.Map.of(), java.util.Map.of())))
                .contains(
                        "sum of kg as pellets",
                        "per shift and orders.product",
                        "where line is PL1",
                        "sorted by pellets, largest first");
        assertThat(query.names()).containsExactly("from", "to", "least");
    }

    @Test
    void whatCannotBeAskedIsSaid() {
        List<Shown> sum = List.of(shown(How.SUM, "kg", ""));
        assertThat(refusal(List.of(shown(How.ITSELF, "kg", "")), List.of(), List.of()))
                .contains("more than one value");
        assertThat(refusal(List.of(sum.get(0), sum.get(0)), List.of(), List.of()))
                .contains("called kg");
        assertThat(refusal(sum, List.of(), List.of(new Order("nosuch", false)))).contains("no column nosuch");
        assertThat(refusal(
                        sum, List.of(new Filter(column("kg"), Op.LESS, "1,5", QueryParameter.Sort.NUMBER)), List.of()))
                .contains("\"1,5\" is no number");
        for (String formula : List.of("kg +", "nosuch * 2", "sqrt(kg)", "kg ^ 2", "\"a\"", "0x1F", "")) {
            assertThat(refusal(
                            List.of(sum.get(0), new Shown(How.COMPUTED, Optional.empty(), formula, "c")),
                            List.of(),
                            List.of()))
                    .as(formula)
                    .endsWith(".");
        }
    }

    /** What is computed of what is computed grows with each step. */
    @Test
    void whatGrowsWithoutEndIsRefused() {
        List<Shown> shown = new ArrayList<>(List.of(shown(How.SUM, "kg", "c0")));
        for (int i = 1; i < 60; i++) {
            shown.add(new Shown(
                    How.COMPUTED, Optional.empty(), "c" + (i - 1) + " + c" + (i - 1) + " * c" + (i - 1), "c" + i));
        }
        assertThat(refusal(shown, List.of(), List.of())).contains("more than 10000 characters");
    }

    /** Names and values that mean something in SQL stay names and values. */
    @Property(tries = 300)
    void noTextGetsOut(@ForAll String name, @ForAll String value) throws QueryProblem {
        DesignedQuery query = new DesignedQuery(
                "db",
                new TableName("", "t" + name),
                List.of(),
                Optional.empty(),
                Optional.empty(),
                List.of(),
                List.of(shown(How.ITSELF, "c" + name, "")),
                List.of(new Filter(column("c"), Op.EQUALS, value, QueryParameter.Sort.TEXT)),
                List.of(),
                0);
        DesignedSql sql = DesignedSql.of(query, new StandardDialect());
        QueryText text = QueryText.of(sql.text());
        assertThat(text.names())
                .allMatch(each -> sql.fixed().containsKey(each) || query.names().contains(each));
        sql.fixed().values().forEach(each -> assertThat(each.start()).isEqualTo(value));
    }
}
