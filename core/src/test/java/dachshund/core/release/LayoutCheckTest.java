package dachshund.core.release;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.release.LayoutCheck.Remark;
import dachshund.core.sql.StandardDialect;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class LayoutCheckTest {

    private static final TagRef LOT = new TagRef("s", "lot");
    private static final TagInfo LOT_INFO = new TagInfo("lot", "PL1", "Lot ID", DataKind.TEXT, "", "", false);

    private static List<Remark> remarks(Layout layout) {
        return LayoutCheck.remarks(
                layout,
                new StandardDialect(),
                tag -> tag.equals(LOT) ? Optional.of(LOT_INFO) : Optional.empty(),
                dachshund.core.equipment.PropertyLookup.NONE,
                "");
    }

    private static Column of(String name, SqlType type, TagRef tag) {
        return Column.of(name, type, new ColumnSource.FromTag(tag, ColumnSource.Aspect.VALUE));
    }

    @Test
    void twoColumnsOfOneNameBlockWhateverTheirCase() {
        List<Remark> remarks =
                remarks(new Layout(List.of(of("lot", SqlType.text(20), LOT), of("LOT", SqlType.text(20), LOT))));
        assertThat(remarks)
                .anyMatch(remark -> remark.blocking()
                        && remark.column() == 1
                        && remark.sentence().contains("Columns 1 and 2 are both named"));
    }

    @Test
    void aTextTagInANumberColumnIsAdviceBecauseSomeTextsAreNumbers() {
        assertThat(remarks(new Layout(List.of(of("lot", SqlType.INTEGER, LOT)))))
                .singleElement()
                .matches(remark ->
                        !remark.blocking() && remark.sentence().contains("is text and this column holds numbers"));
    }

    @Test
    void aConstantThatIsNothingYetIsAdviceAndOneThatIsNoValueOfItsTypeBlocks() {
        Column lot = of("lot", SqlType.text(20), LOT);
        Column empty = Column.of("n", SqlType.DOUBLE, new ColumnSource.Constant(""));
        assertThat(remarks(new Layout(List.of(lot, empty))))
                .singleElement()
                .matches(remark -> !remark.blocking()
                        && remark.sentence()
                                .startsWith("Column n has no value yet. Write a constant, feed it by a tag"));
        assertThat(remarks(new Layout(List.of(lot, Column.of("t", SqlType.text(5), new ColumnSource.Constant(""))))))
                .isEmpty();
        assertThat(remarks(new Layout(List.of(lot, Column.of("n", SqlType.DOUBLE, new ColumnSource.Constant("much"))))))
                .singleElement()
                .matches(Remark::blocking)
                .extracting(Remark::sentence)
                .asString()
                .startsWith("The constant much of column n ");
        assertThat(remarks(new Layout(List.of(lot, Column.of("n", SqlType.DOUBLE, new ColumnSource.Constant("0.5"))))))
                .isEmpty();
    }

    @Test
    void anUnknownTagAndARowWithoutTagsBlock() {
        assertThat(remarks(new Layout(List.of(of("x", SqlType.DOUBLE, new TagRef("s", "gone"))))))
                .anyMatch(Remark::blocking);
        assertThat(remarks(Layout.proposed())).anyMatch(remark -> remark.blocking() && remark.column() == -1);
    }

    @Test
    void freeNamesAreTidyAndFree() {
        Layout layout = Layout.proposed().plus(of("outlet_temperature", SqlType.DOUBLE, LOT));
        assertThat(layout.freeName("Outlet temperature (°C)")).isEqualTo("outlet_temperature_c");
        assertThat(layout.freeName("Outlet temperature")).isEqualTo("outlet_temperature_2");
        assertThat(layout.freeName("  % ")).isEqualTo("column");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {"boolean", "smallint", "integer", "bigint", "decimal(8,2)", "double", "text(80)", "timestamp(6)"
            })
    void typesAreReadBackAsWritten(String words) {
        assertThat(SqlType.read(words).words()).isEqualTo(words);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                "varchr(5)",
                "decimal(2,5)",
                "decimal(50)",
                "text(0)",
                "timestamp(9)",
                "integer(4)",
                "decimal(8",
                "; drop table x"
            })
    void typesThatAreNoneAreRefusedWithASentence(String words) {
        assertThatThrownBy(() -> SqlType.read(words))
                .isInstanceOf(IllegalArgumentException.class)
                .message()
                .endsWith(".");
    }
}
