package dachshund.links.modbus;

import dachshund.core.modbus.ModbusPoint;
import dachshund.core.modbus.ModbusTable;
import dachshund.core.modbus.ModbusType;
import dachshund.core.modbus.WordOrder;
import dachshund.core.source.LinkKind;
import dachshund.core.source.PlantLink;
import dachshund.core.source.SettingField;
import dachshund.core.source.SettingField.Choice;
import dachshund.core.source.SettingField.Form;
import dachshund.core.tag.TagInfo;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;

/** Modbus TCP, and Modbus RTU frames over TCP (MODBUS Application Protocol V1.1b3). The register map is the list of tags. */
public final class ModbusKind implements LinkKind {

    @Override
    public String id() {
        return "modbus";
    }

    @Override
    public String title() {
        return "Modbus TCP";
    }

    @Override
    public String purpose() {
        return "Meters, drives and small controllers. You describe their registers as a table, by hand or by CSV. Also RTU frames over TCP, as serial gateways speak them.";
    }

    @Override
    public List<SettingField> settings() {
        return List.of(
                SettingField.text("host", "Host", "192.168.10.30", "")
                        .checked(SettingField::host)
                        .reaching(),
                SettingField.text("port", "Port", "502", "502")
                        .checked(SettingField::port)
                        .reaching(),
                SettingField.choice("framing", "Frames", "tcp", "Modbus TCP", "rtu", "Modbus RTU over TCP"),
                SettingField.text("timeout", "Longest wait for an answer, ms", "1000", "1000")
                        .seldom()
                        .checked(SettingField.whole(50, 60_000, "A wait is 50 to 60,000 ms."))
                        .helped("For each device (unit id) by itself: one that is dead does not slow the others."),
                SettingField.text("gap", "Registers read though nobody wants them, to save a request", "8", "8")
                        .seldom()
                        .checked(SettingField.whole(0, 124, "A gap is 0 to 124 registers.")),
                SettingField.text("registers", "Most registers in one request", "125", "125")
                        .seldom()
                        .checked(SettingField.whole(1, 125, "A request reads 1 to 125 registers.")),
                SettingField.text("bits", "Most coils or inputs in one request", "2000", "2000")
                        .seldom()
                        .checked(SettingField.whole(1, 2000, "A request reads 1 to 2,000 bits.")),
                SettingField.choice(
                                "single",
                                "Write one register with",
                                "auto",
                                "function 6 for one register, 16 for several",
                                "multiple",
                                "function 16 always (some devices know only this)")
                        .seldom());
    }

    @Override
    public List<SettingField> tagFields() {
        return List.of(
                SettingField.text("unit_id", "Unit id", "1", "1"),
                choice(
                        "table",
                        "Table",
                        Stream.concat(
                                Stream.of(new Choice("", "as the reference says")),
                                Arrays.stream(ModbusTable.values())
                                        .map(table -> new Choice(lower(table), table.words())))),
                SettingField.text("register", "Register", "0 or 40001", "")
                        .helped("With a table: the address counted from 0. Without: a reference such as 40001."),
                choice(
                        "type",
                        "Type",
                        Arrays.stream(ModbusType.values()).map(type -> new Choice(lower(type), type.words()))),
                choice(
                        "order",
                        "Word order",
                        Arrays.stream(WordOrder.values())
                                .map(order -> new Choice(lower(order), order.name() + ": " + order.words()))),
                SettingField.text("bit", "Bit", "0 to 15", ""),
                SettingField.text("length", "Length of a text", "", ""),
                SettingField.text("scale", "Scale", "1", ""),
                SettingField.text("offset", "Offset", "0", ""));
    }

    private static String lower(Enum<?> value) {
        return value.name().toLowerCase(Locale.ROOT);
    }

    private static SettingField choice(String name, String label, Stream<Choice> choices) {
        List<Choice> all = choices.toList();
        return new SettingField(name, label, "", all.get(0).value(), Form.CHOICE, all, "", false, false, text -> "");
    }

    @Override
    public boolean browses() {
        return false;
    }

    @Override
    public String tagProblem(TagInfo tag) {
        try {
            ModbusPoint.read(tag.how());
            return "";
        } catch (IllegalArgumentException problem) {
            return problem.getMessage();
        }
    }

    @Override
    public TagInfo described(TagInfo tag) {
        ModbusPoint point = ModbusPoint.read(tag.how());
        return new TagInfo(
                tag.address(),
                tag.path(),
                tag.name(),
                point.kind(),
                tag.unit(),
                tag.description(),
                point.table().writable(),
                tag.range(),
                tag.decimals(),
                tag.changesWithin(),
                tag.labels(),
                tag.how(),
                tag.original());
    }

    /** A register in both notations. */
    @Override
    public String shown(SettingField field, TagInfo tag) {
        ModbusPoint point = ModbusPoint.read(tag.how());
        return switch (field.name()) {
            case "register" -> point.address() + " (" + point.table().reference(point.address()) + ")";
            case "table" -> point.table().words();
            default -> tag.how().getOrDefault(field.name(), "");
        };
    }

    @Override
    public PlantLink open(Opening opening) {
        return new ModbusLink(opening);
    }
}
