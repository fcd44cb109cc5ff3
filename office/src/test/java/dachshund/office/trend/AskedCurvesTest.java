package dachshund.office.trend;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyLong;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape.Column;
import dachshund.core.reader.TableShape.Sort;
import dachshund.core.reader.TimeColumn;
import dachshund.core.trend.Band;
import dachshund.core.trend.BandSource;
import dachshund.core.trend.Curve;
import dachshund.core.trend.CurveSource;
import dachshund.core.trend.Stretch;
import dachshund.engine.Engine;
import dachshund.office.archive.Histories;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.Test;

/** Curves and bands of rows that a query gives, whatever stands there. */
class AskedCurvesTest {

    private static final Instant SIX = Instant.parse("2026-11-28T06:00:00Z");

    private final AskedQueries queries = mock(AskedQueries.class);

    /** A query that gives these. */
    private void gives(List<Column> columns, List<List<Object>> rows) throws Exception {
        when(queries.times(any(), any(), any())).thenAnswer(asked -> {
            Column column = asked.getArgument(1);
            return new TimeColumn(column.name(), TimeColumn.usual(column)).reading(ZoneOffset.UTC);
        });
        doAnswer(asked -> {
                    TableReading.Taker taker = asked.getArgument(5);
                    taker.columns(columns);
                    rows.forEach(taker::row);
                    return null;
                })
                .when(queries)
                .give(any(), any(), any(), any(), anyLong(), any());
    }

    private static Column column(String name, Sort sort) {
        return new Column(name, sort.words(), sort, true);
    }

    @Test
    void rowsWithoutATimeOfAPlantAreLeftOutAndThatIsSaid() throws Exception {
        gives(
                List.of(column("at", Sort.NUMBER), column("kg", Sort.NUMBER)),
                List.of(
                        List.of(SIX.getEpochSecond(), 1.5),
                        List.of(SIX.toEpochMilli(), 2.5),
                        Arrays.asList(null, 3.5)));
        Engine engine = mock(Engine.class);
        when(engine.clock()).thenReturn(() -> SIX.plusSeconds(60));
        Trends trends = new Trends(mock(Histories.class), null, queries, mock(Definitions.class), null, engine);
        Trends.Drawn drawn = trends.drawn(
                Curve.of("1", "Kilos", "", true, false, new CurveSource.OfQuery("q", "at", "kg")),
                SIX.minusSeconds(3600),
                SIX.plusSeconds(3600),
                100,
                Standing.RELEASED);
        assertThat(drawn.points().size()).isOne();
        assertThat(drawn.told())
                .isEqualTo(
                        "2 rows are left out: what stands there is no time of a plant, such as NULL. Numbers are seconds since 1970; let the query divide milliseconds by 1000.");
    }

    @Test
    void whatHasNoEndGoesOn() throws Exception {
        gives(
                List.of(column("from", Sort.STAMP), column("to", Sort.STAMP), column("lot", Sort.TEXT)),
                List.of(
                        Arrays.asList(SIX, null, "a"),
                        List.of(SIX, "infinity", "b"),
                        List.of(SIX, Instant.parse("9999-12-31T00:00:00Z"), "c"),
                        List.of(SIX, "none", "d")));
        Bands bands = new Bands(mock(Histories.class), mock(Definitions.class), queries, null);
        Instant end = SIX.plusSeconds(60);
        Bands.Drawn drawn = bands.of(
                new Band("1", "Lot", new BandSource.OfQuery("q", "from", "to", "lot")),
                SIX.minusSeconds(60),
                end,
                Standing.RELEASED);
        assertThat(drawn.stretches())
                .containsExactly(new Stretch(SIX, end, "a"), new Stretch(SIX, end, "b"), new Stretch(SIX, end, "c"));
        assertThat(drawn.told()).startsWith("1 row is left out");
    }
}
