package dachshund.core.reader;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.reader.TableShape.Column;
import dachshund.core.reader.TableShape.Sort;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;

class TableShapeTest {

    @Test
    void columnsOfOneNameAreToldApartAndOneWithoutGetsOne() {
        List<Column> columns = new ArrayList<>();
        for (String label : List.of("id", "ID", "", "id_2", "column_3", "")) {
            columns.add(new Column(TableShape.free(columns, label), "INT", Sort.NUMBER, true));
        }
        assertThat(columns)
                .extracting(Column::name)
                .containsExactly("id", "ID_2", "column_3", "id_2_2", "column_3_2", "column_6");
    }
}
