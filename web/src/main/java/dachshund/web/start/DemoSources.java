package dachshund.web.start;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.engine.Engine;
import dachshund.engine.kept.KeptKind;
import dachshund.office.definition.Definitions;
import dachshund.office.own.DachshundSettings;
import dachshund.web.plant.Offers;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import org.springframework.stereotype.Component;

/** The sources of the demo, one of each kind: the pellet works, its meters, its silos, kept targets, formulas. */
@Component
class DemoSources {

    private static final List<String> METERS = List.of(
            "Mill 1",
            "Mill 2",
            "Pellet line 1",
            "Pellet line 2",
            "Pellet line 3",
            "Drying",
            "Cooling and bagging",
            "Offices");

    private final DachshundSettings settings;
    private final Engine engine;

    DemoSources(DachshundSettings settings, Engine engine) {
        this.settings = settings;
        this.engine = engine;
    }

    /** @throws LinkProblem where the simulated plant does not answer */
    SourceDefinition pelletWorks() throws LinkProblem {
        SourceDefinition empty = new SourceDefinition(
                Definitions.newId(),
                "Pellet works",
                "Drying, milling, pelleting, cooling, bagging",
                "opcua",
                Map.of("address", "opc.tcp://127.0.0.1:" + settings.demoOpcuaPort()),
                Duration.ofSeconds(1),
                List.of(),
                true);
        try (PlantLink link = engine.sources().open(empty)) {
            return empty.withTags(Offers.all(link));
        }
    }

    Optional<SourceDefinition> meters() {
        if (settings.demoModbusPort() == 0) {
            return Optional.empty();
        }
        LinkKind kind = engine.sources().kind("modbus");
        List<TagInfo> tags = new ArrayList<>();
        for (int i = 0; i < METERS.size(); i++) {
            String unit = Integer.toString(i + 1);
            String path = "Energy / " + METERS.get(i);
            String order = i >= 5 ? "cdab" : "abcd";
            tags.add(meter(
                    kind,
                    tags,
                    path,
                    "Active power",
                    "kW",
                    OptionalInt.of(1),
                    new Range(0, 1200),
                    "unit_id",
                    unit,
                    "table",
                    "input",
                    "register",
                    "0",
                    "type",
                    "float32",
                    "order",
                    order));
            tags.add(meter(
                    kind,
                    tags,
                    path,
                    "Energy",
                    "kWh",
                    OptionalInt.of(1),
                    null,
                    "unit_id",
                    unit,
                    "table",
                    "input",
                    "register",
                    "10",
                    "type",
                    "uint32",
                    "scale",
                    "0.1"));
            tags.add(meter(
                    kind,
                    tags,
                    path,
                    "Power factor",
                    "",
                    OptionalInt.of(3),
                    new Range(0, 1),
                    "unit_id",
                    unit,
                    "table",
                    "input",
                    "register",
                    "20",
                    "type",
                    "uint16",
                    "scale",
                    "0.001"));
            tags.add(meter(
                    kind,
                    tags,
                    path,
                    "Voltage",
                    "V",
                    OptionalInt.of(1),
                    new Range(350, 450),
                    "unit_id",
                    unit,
                    "table",
                    "input",
                    "register",
                    "21",
                    "type",
                    "uint16",
                    "scale",
                    "0.1"));
            tags.add(meter(
                    kind,
                    tags,
                    path,
                    "Tariff",
                    "",
                    OptionalInt.empty(),
                    new Range(1, 4),
                    "unit_id",
                    unit,
                    "table",
                    "holding",
                    "register",
                    "100",
                    "type",
                    "uint16"));
            tags.add(meter(
                    kind,
                    tags,
                    path,
                    "Serial number",
                    "",
                    OptionalInt.empty(),
                    null,
                    "unit_id",
                    unit,
                    "table",
                    "holding",
                    "register",
                    "200",
                    "type",
                    "text",
                    "length",
                    "8"));
        }
        tags.add(meter(
                kind,
                tags,
                "Energy / Heat meter",
                "Heat output",
                "kW",
                OptionalInt.of(1),
                null,
                "unit_id",
                "9",
                "register",
                "30001",
                "type",
                "float32"));
        tags.add(meter(
                kind,
                tags,
                "Energy / Heat meter",
                "Flow temperature",
                "°C",
                OptionalInt.of(1),
                null,
                "unit_id",
                "9",
                "register",
                "30011",
                "type",
                "int16",
                "scale",
                "0.1"));
        tags.add(meter(
                kind,
                tags,
                "Energy / Heat meter",
                "Return temperature",
                "°C",
                OptionalInt.of(1),
                null,
                "unit_id",
                "9",
                "register",
                "30015",
                "type",
                "int16",
                "scale",
                "0.1"));
        return Optional.of(new SourceDefinition(
                Definitions.newId(),
                "Energy meters",
                "Eight electricity meters and a heat meter behind a gateway",
                "modbus",
                Map.of(
                        "host",
                        "127.0.0.1",
                        "port",
                        Integer.toString(settings.demoModbusPort()),
                        "framing",
                        "tcp",
                        "timeout",
                        "1000",
                        "gap",
                        "8",
                        "registers",
                        "125",
                        "bits",
                        "2000"),
                Duration.ofSeconds(1),
                tags,
                false));
    }

    private static TagInfo meter(
            LinkKind kind,
            List<TagInfo> before,
            String path,
            String name,
            String unit,
            OptionalInt decimals,
            Range range,
            String... how) {
        Map<String, String> description = new LinkedHashMap<>();
        for (int i = 0; i < how.length; i += 2) {
            description.put(how[i], how[i + 1]);
        }
        return kind.described(new TagInfo(
                "t" + (before.size() + 1),
                path,
                name,
                DataKind.NUMBER,
                unit,
                "",
                false,
                Optional.ofNullable(range),
                decimals,
                Optional.empty(),
                List.of(),
                description,
                Map.of()));
    }

    Optional<SourceDefinition> silos() {
        if (settings.demoBrokerPort() == 0) {
            return Optional.empty();
        }
        LinkKind kind = engine.sources().kind("mqtt");
        List<TagInfo> tags = new ArrayList<>();
        for (int i = 1; i <= 4; i++) {
            String topic = "quillmoor/silos/S" + i;
            String path = "quillmoor / silos / S" + i;
            tags.add(silo(
                    kind,
                    path,
                    "level",
                    DataKind.NUMBER,
                    "%",
                    Optional.of(new Range(0, 100)),
                    Map.of("topic", topic + "/level"),
                    topic + "/level"));
            tags.add(silo(
                    kind,
                    path,
                    "temperature",
                    DataKind.NUMBER,
                    "°C",
                    Optional.empty(),
                    Map.of("topic", topic + "/climate", "pointer", "/temperature", "time", "/ts"),
                    topic + "/climate /temperature"));
            tags.add(silo(
                    kind,
                    path,
                    "battery",
                    DataKind.NUMBER,
                    "V",
                    Optional.empty(),
                    Map.of("topic", topic + "/climate", "pointer", "/battery", "time", "/ts"),
                    topic + "/climate /battery"));
            tags.add(silo(
                    kind,
                    path,
                    "fan",
                    DataKind.BOOLEAN,
                    "",
                    Optional.empty(),
                    Map.of("topic", topic + "/fan", "write", topic + "/fan/set"),
                    topic + "/fan"));
        }
        return Optional.of(new SourceDefinition(
                Definitions.newId(),
                "Silos",
                "Wireless sensors of the pellet silos",
                "mqtt",
                Map.of(
                        "host",
                        "127.0.0.1",
                        "port",
                        Integer.toString(settings.demoBrokerPort()),
                        "topics",
                        "quillmoor/#",
                        "version",
                        "5",
                        "qos",
                        "1",
                        "tls",
                        "false",
                        "status",
                        "quillmoor/silos/status",
                        "offline",
                        "offline"),
                Duration.ofSeconds(1),
                tags,
                true));
    }

    private static TagInfo silo(
            LinkKind kind,
            String path,
            String name,
            DataKind sort,
            String unit,
            Optional<Range> range,
            Map<String, String> how,
            String address) {
        Optional<Duration> stale = sort == DataKind.NUMBER ? Optional.of(Duration.ofMinutes(5)) : Optional.empty();
        return kind.described(new TagInfo(
                address,
                path,
                name,
                sort,
                unit,
                "",
                false,
                range,
                sort == DataKind.NUMBER ? OptionalInt.of(2) : OptionalInt.empty(),
                stale,
                List.of(),
                how,
                Map.of()));
    }

    SourceDefinition kept() {
        LinkKind kind = engine.sources().kind(KeptKind.ID);
        List<TagInfo> tags = new ArrayList<>();
        for (int line = 1; line <= 3; line++) {
            tags.add(kind.described(new TagInfo(
                    "t" + line,
                    "Targets",
                    "PL" + line + " target output",
                    DataKind.NUMBER,
                    "t/h",
                    "Set by the shift leader",
                    true,
                    Optional.of(new Range(0, 6)),
                    OptionalInt.of(2),
                    Optional.empty(),
                    List.of("target"),
                    Map.of("first", "3.4"),
                    Map.of())));
        }
        tags.add(kind.described(new TagInfo(
                "t4",
                "Targets",
                "Shift note",
                DataKind.TEXT,
                "",
                "A line for the next shift",
                true,
                Optional.empty(),
                OptionalInt.empty(),
                Optional.empty(),
                List.of(),
                Map.of("first", "Nothing to report"),
                Map.of())));
        return new SourceDefinition(
                Definitions.newId(),
                "Targets",
                "What the shift sets",
                KeptKind.ID,
                Map.of(),
                Duration.ofSeconds(1),
                tags);
    }

    SourceDefinition formulas(SourceDefinition works, Optional<SourceDefinition> meters, SourceDefinition kept) {
        LinkKind kind = engine.sources().kind(FormulaTag.LINK);
        List<TagInfo> tags = new ArrayList<>();
        for (int line = 1; line <= 3; line++) {
            String path = "Pelleting / PL" + line;
            TagRef output = ref(works, path, "Pellet output");
            tags.add(formula(
                    kind,
                    tags,
                    path,
                    "Specific energy",
                    "kWh/t",
                    "Energy for a tonne of pellets, mean of 5 min",
                    "if(mean(output, \"5 min\") > 0.2, mean(power, \"5 min\") / mean(output, \"5 min\"), 0)",
                    Map.of("power", ref(works, path, "Main motor power"), "output", output)));
            tags.add(formula(
                    kind,
                    tags,
                    path,
                    "Output against target",
                    "%",
                    "",
                    "round(output / target * 100, 1)",
                    Map.of("output", output, "target", new TagRef(kept.id(), "t" + line))));
        }
        meters.ifPresent(source -> {
            Map<String, TagRef> inputs = new LinkedHashMap<>();
            source.tags().stream()
                    .filter(tag -> tag.name().equals("Active power"))
                    .forEach(tag -> inputs.put("p" + (inputs.size() + 1), new TagRef(source.id(), tag.address())));
            tags.add(formula(
                    kind,
                    tags,
                    "Energy",
                    "Plant power",
                    "MW",
                    "All electricity meters together",
                    "convert(" + String.join(" + ", inputs.keySet()) + ", \"kW\", \"MW\")",
                    inputs));
        });
        return new SourceDefinition(
                Definitions.newId(),
                "Formulas",
                "Computed from other tags",
                FormulaTag.LINK,
                Map.of(),
                Duration.ofSeconds(1),
                tags);
    }

    private static TagInfo formula(
            LinkKind kind,
            List<TagInfo> before,
            String path,
            String name,
            String unit,
            String description,
            String text,
            Map<String, TagRef> inputs) {
        TagInfo tag = new TagInfo("t" + (before.size() + 1), path, name, DataKind.NUMBER, unit, description, false)
                .withHow(Map.of(FormulaTag.FORMULA, text, FormulaTag.INPUTS, FormulaTag.lines(inputs)));
        String problem = kind.tagProblem(tag);
        if (!problem.isEmpty()) {
            throw new IllegalStateException(name + ": " + problem);
        }
        return tag;
    }

    private static TagRef ref(SourceDefinition source, String path, String name) {
        return new TagRef(
                source.id(),
                source.tags().stream()
                        .filter(tag -> tag.path().equals(path) && tag.name().equals(name))
                        .findFirst()
                        .orElseThrow()
                        .address());
    }
}
