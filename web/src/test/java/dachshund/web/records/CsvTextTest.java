package dachshund.web.records;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Cells that a spreadsheet would take for a formula are made safe; others stay as they are. */
class CsvTextTest {

    @ParameterizedTest
    @CsvSource(textBlock = """
            =1+1          | '=1+1
            @SUM(A1)      | '@SUM(A1)
            +44           | '+44
            -cmd          | '-cmd
            PL1-261124-02 | PL1-261124-02
            """, delimiter = '|', quoteCharacter = '~')
    void textsAreMadeSafe(String text, String safe) {
        assertThat(RowsController.safe(text)).isEqualTo(safe);
    }
}
