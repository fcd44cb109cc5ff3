package dachshund.office.archive;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import com.zaxxer.hikari.HikariDataSource;
import dachshund.core.aggregate.Samples;
import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.Arrivals;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Marks.Gap;
import dachshund.core.archive.TagKey;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.engine.Engine;
import dachshund.engine.archive.Archive;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.time.Instant;
import java.util.List;
import org.flywaydb.core.Flyway;
import org.junit.jupiter.api.Test;

/** A month of a value a second, on a real MariaDB: more than is in memory at once. */
class HistoriesTest {

    private static final TagRef A = new TagRef("5ca1ab1e", "a");
    private static final int SECONDS = 30 * 86_400;
    private static final Instant FROM = Instant.parse("2026-10-01T00:00:00Z");

    @Test
    void aPlotOfALongTimeIsReadInPartsAndLosesNoExtremeAndNoGap() throws Exception {
        Engine engine = mock(Engine.class);
        Archive archive = mock(Archive.class);
        when(engine.archive()).thenReturn(archive);
        when(archive.tail(any())).thenReturn(List.of());
        Instant end = FROM.plusSeconds(SECONDS);
        when(engine.clock()).thenReturn(() -> end);
        try (PrivateMariaDb server = new PrivateMariaDb();
                HikariDataSource pool = new HikariDataSource()) {
            pool.setJdbcUrl(server.url("archived") + "&createDatabaseIfNotExist=true&timezone=UTC");
            Flyway.configure().dataSource(pool).load().migrate();
            BlockTable table = new BlockTable(pool);
            long from = OpcUaTime.toTicks(FROM);
            for (int day = 0; day < 30; day++) {
                Arrivals values = new Arrivals();
                for (int second = day * 86_400; second < (day + 1) * 86_400; second++) {
                    long time = from + second * 10_000_000L;
                    if (second == 2_000_000) {
                        values.add(time, null, Marks.of(Gap.AWAY));
                    } else if (second < 2_000_000 || second > 2_020_000) {
                        values.add(
                                time, second == 1_234_567 ? 99.5 : second == 1_234_569 ? -7.25 : second % 10 * 0.5, 0);
                    }
                }
                table.bringIn("brought in", Block.of(TagKey.of(A), values.series()), List.of());
            }
            Histories histories = new Histories(table, engine);
            assertThat(histories.count(A, FROM, end))
                    .isEqualTo(SECONDS - 20_001)
                    .isGreaterThan(2L * Histories.AT_ONCE);
            Samples points = histories.outline(A, FROM, end, 600, true);
            double most = Double.NEGATIVE_INFINITY;
            double least = Double.POSITIVE_INFINITY;
            int gaps = 0;
            for (int i = 0; i < points.size(); i++) {
                if (i > 0) {
                    assertThat(points.time(i)).isGreaterThanOrEqualTo(points.time(i - 1));
                }
                if (points.grade(i) == Samples.GAP) {
                    gaps++;
                } else {
                    most = Math.max(most, points.value(i));
                    least = Math.min(least, points.value(i));
                }
            }
            assertThat(most).isEqualTo(99.5);
            assertThat(least).isEqualTo(-7.25);
            assertThat(gaps)
                    .as("the one that there is, and none between two parts")
                    .isEqualTo(1);
            assertThat(points.size()).isBetween(1500, 2500);
        }
    }
}
