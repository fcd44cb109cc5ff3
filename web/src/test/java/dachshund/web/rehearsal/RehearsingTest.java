package dachshund.web.rehearsal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.CALLS_REAL_METHODS;
import static org.mockito.Mockito.mock;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.row.Made;
import dachshund.core.row.RowId;
import dachshund.web.page.Shown;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.Test;

class RehearsingTest {

    /** A tag that has no value yet, in a row that is refused for another of its columns. */
    @Test
    void aRefusedRowWithoutAValueIsShown() {
        Layout layout = Layout.proposed()
                .plus(Column.of("a", SqlType.DOUBLE, new ColumnSource.Constant("1")))
                .plus(Column.of("b", SqlType.text(3), new ColumnSource.Constant("abcd")));
        RecorderDefinition recorder = new RecorderDefinition("0a0a0a0a", "Mixer", "", List.of(), layout, List.of());
        String[] values = new String[layout.written().size()];
        values[values.length - 1] = "abcd";
        Made refused = new Made.Refused(
                new RowId("abcdef", "0a0a0a0a", 1, 1, 0),
                Instant.EPOCH,
                Arrays.asList(values),
                "Column b is 4 characters long.");
        Rehearsing.Line line =
                new Rehearsing(null, null, mock(Shown.class, CALLS_REAL_METHODS)).line(recorder, refused);
        assertThat(line.values()).doesNotContainNull().contains("NULL").endsWith("abcd");
        assertThat(line.reason()).isEqualTo("set aside: Column b is 4 characters long.");
    }
}
