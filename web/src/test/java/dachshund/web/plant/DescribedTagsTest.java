package dachshund.web.plant;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.source.LinkKind;
import dachshund.core.tag.TagInfo;
import dachshund.links.modbus.ModbusKind;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

class DescribedTagsTest {

    private static final LinkKind MODBUS = new ModbusKind();

    private static final List<TagInfo> TAGS = List.of(
            DescribedTags.tag(
                    MODBUS,
                    "t1",
                    Map.of(
                            "name",
                            "Power, \"net\"",
                            "path",
                            "Mill 1",
                            "unit",
                            "kW",
                            "unit_id",
                            "3",
                            "register",
                            "30001",
                            "type",
                            "float32",
                            "range",
                            "-10 to 50")),
            DescribedTags.tag(
                    MODBUS,
                    "t2",
                    Map.of(
                            "name",
                            "=Tariff",
                            "register",
                            "40101",
                            "offset",
                            "-5",
                            "labels",
                            "energy, money",
                            "decimals",
                            "2",
                            "changes_within",
                            "5 min")));

    @Test
    void whatGoesOutComesInEqual() {
        String csv = DescribedTags.csv(MODBUS, TAGS);
        assertThat(csv)
                .startsWith("\uFEFFid,path,name,kind")
                .contains("\"Power, \"\"net\"\"\"")
                .contains("'=Tariff")
                .contains(",-5");
        assertThat(DescribedTags.read(MODBUS, List.of(), csv).tags()).isEqualTo(TAGS);
        assertThat(DescribedTags.read(MODBUS, TAGS, csv).tags()).isEqualTo(TAGS);
    }

    @Test
    void linesWithoutAnIdAreKnownByPathAndNameAndOtherSeparatorsAreRead() {
        DescribedTags.Read read = DescribedTags.read(
                MODBUS, TAGS, "Name;Path;Register;Type;Unit_id\nPower, \"net\";Mill 1;30011;int16;4\nNew;;40007;;\n");
        assertThat(read.problems()).isEmpty();
        assertThat(read.tags())
                .extracting(TagInfo::address)
                .startsWith("t1", "t2")
                .doesNotHaveDuplicates()
                .hasSize(3);
        assertThat(read.tags().get(0).how()).containsEntry("register", "30011").containsEntry("unit_id", "4");
    }

    @Test
    void everyBadLineIsNamedAndNothingIsTaken() {
        DescribedTags.Read read = DescribedTags.read(
                MODBUS, TAGS, "name,register,unit_id\n,40001,1\nA,4x,1\nB,40001,999\nB,40001,1\nB,40002,1\n");
        assertThat(read.problems()).hasSize(5);
        assertThat(read.problems().get(4)).contains("Line 6, B: the tag B stands here twice.");
        assertThat(read.problems().get(0)).startsWith("Line 2, without a name: A tag needs a name");
        assertThat(read.problems().get(1)).startsWith("Line 3, A: A register is an address");
        assertThat(read.problems().get(2)).contains("Line 4, B: A unit id is 0 to 255.");
        assertThat(DescribedTags.read(MODBUS, TAGS, "register\n40001\n").problems())
                .singleElement()
                .asString()
                .contains("one of them must be name");
        assertThat(DescribedTags.read(MODBUS, TAGS, "name,register\n").problems())
                .singleElement()
                .asString()
                .contains("no line below the header");
        assertThat(DescribedTags.read(
                                MODBUS,
                                TAGS,
                                "name,register\n"
                                        + IntStream.range(0, 50)
                                                .mapToObj(i -> "X" + i + ",oops\n")
                                                .collect(Collectors.joining()))
                        .problems())
                .hasSize(21)
                .last()
                .asString()
                .contains("And 30 more lines");
    }
}
