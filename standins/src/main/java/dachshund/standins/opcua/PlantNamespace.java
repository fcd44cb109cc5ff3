package dachshund.standins.opcua;

import dachshund.standins.plant.PlantTag;
import java.lang.reflect.Array;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Supplier;
import org.eclipse.milo.opcua.sdk.core.AccessLevel;
import org.eclipse.milo.opcua.sdk.core.Reference;
import org.eclipse.milo.opcua.sdk.server.ManagedNamespaceWithLifecycle;
import org.eclipse.milo.opcua.sdk.server.OpcUaServer;
import org.eclipse.milo.opcua.sdk.server.items.DataItem;
import org.eclipse.milo.opcua.sdk.server.items.MonitoredItem;
import org.eclipse.milo.opcua.sdk.server.nodes.UaDataTypeNode;
import org.eclipse.milo.opcua.sdk.server.nodes.UaFolderNode;
import org.eclipse.milo.opcua.sdk.server.nodes.UaNode;
import org.eclipse.milo.opcua.sdk.server.nodes.UaVariableNode;
import org.eclipse.milo.opcua.stack.core.AttributeId;
import org.eclipse.milo.opcua.stack.core.NodeIds;
import org.eclipse.milo.opcua.stack.core.types.builtin.ByteString;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.DateTime;
import org.eclipse.milo.opcua.stack.core.types.builtin.ExtensionObject;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.builtin.NodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.QualifiedName;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.Variant;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;
import org.eclipse.milo.opcua.stack.core.types.enumerated.TimestampsToReturn;
import org.eclipse.milo.opcua.stack.core.types.structured.EUInformation;
import org.eclipse.milo.opcua.stack.core.types.structured.EnumDefinition;
import org.eclipse.milo.opcua.stack.core.types.structured.EnumField;
import org.eclipse.milo.opcua.stack.core.types.structured.HistoryReadDetails;
import org.eclipse.milo.opcua.stack.core.types.structured.HistoryReadResult;
import org.eclipse.milo.opcua.stack.core.types.structured.HistoryReadValueId;
import org.eclipse.milo.opcua.stack.core.types.structured.Range;
import org.eclipse.milo.opcua.stack.core.types.structured.ReadRawModifiedDetails;

/** The plant's tags as OPC UA nodes: a folder per area and equipment, a variable per tag with unit and range (OPC 10000-8). */
@SuppressWarnings("deprecation") // the library offers no other way to name a node by its context
final class PlantNamespace extends ManagedNamespaceWithLifecycle {

    private static final List<String> PHASES = List.of("idle", "run", "fault", "clean");
    private static final ByteString DIE_CHIP = ByteString.of(new byte[] {0x0d, (byte) 0xac, (byte) 0x85, 0x00, 0x2f});

    private final Map<PlantTag, UaVariableNode> nodes = new HashMap<>();
    private final Map<NodeId, PlantTag> tagOf = new HashMap<>();
    private final Map<NodeId, List<DataItem>> items = new ConcurrentHashMap<>();
    private final PlantHistory history = new PlantHistory();
    private final List<Computed> computed = new ArrayList<>();

    /** A node that is no tag of the simulation but made from some of them: an array or a structure. */
    private record Computed(UaVariableNode node, Supplier<Object> value) {}

    PlantNamespace(OpcUaServer server, List<PlantTag> tags) {
        super(server, PelletWorksServer.NAMESPACE);
        getLifecycleManager().addStartupTask(() -> build(tags));
    }

    private void build(List<PlantTag> tags) {
        Map<String, UaFolderNode> folders = new HashMap<>();
        for (PlantTag tag : tags) {
            UaFolderNode folder = folder(tag.path(), folders);
            UaVariableNode node = variable(tag);
            folder.addOrganizes(node);
            nodes.put(tag, node);
            tagOf.put(node.getNodeId(), tag);
        }
        PlantTag die = tags.stream()
                .filter(tag -> tag.path().endsWith("PL1") && tag.name().equals("Die temperature"))
                .findFirst()
                .orElseThrow();
        PlantTag target = tags.stream()
                .filter(tag -> tag.name().equals("Target weight set point"))
                .findFirst()
                .orElseThrow();
        computed("Pelleting/PL1", "Roller bearing temperatures", NodeIds.Double, 1, folders, () -> {
            double at = (Double) die.value();
            return new Double[] {
                Math.round((at * 0.62 + 9) * 10) / 10.0,
                Math.round((at * 0.6 + 11) * 10) / 10.0,
                Math.round((at * 0.64 + 7) * 10) / 10.0
            };
        });
        PlantTag state = tags.stream()
                .filter(tag -> tag.path().endsWith("PL1") && tag.name().equals("State"))
                .findFirst()
                .orElseThrow();
        UaDataTypeNode phaseType = dataType("LinePhase", NodeIds.Enumeration);
        property(
                phaseType,
                "EnumStrings",
                NodeIds.LocalizedText,
                PHASES.stream().map(LocalizedText::english).toArray(LocalizedText[]::new));
        NodeId phases = phaseType.getNodeId();
        computed("Pelleting/PL1", "Phase", phases, -1, folders, () -> PHASES.indexOf((String) state.value()));
        PlantTag bag = tags.stream()
                .filter(tag -> tag.name().equals("Last bag"))
                .findFirst()
                .orElseThrow();
        UaDataTypeNode classes = dataType("WeightClass", NodeIds.Enumeration);
        classes.setDataTypeDefinition(
                new EnumDefinition(new EnumField[] {field(-1, "under"), field(0, "within"), field(1, "over")}));
        computed("Bagging/CW1", "Weight class", classes.getNodeId(), -1, folders, () -> {
            double grams = (Double) bag.value();
            return grams < 14_850 ? -1 : grams > 15_150 ? 1 : 0;
        });
        // Bits: the same structure tells their places.
        UaDataTypeNode interlocks = dataType("Interlocks", NodeIds.UInt16);
        interlocks.setDataTypeDefinition(
                new EnumDefinition(new EnumField[] {field(0, "guard"), field(1, "feed"), field(2, "oil")}));
        computed("Pelleting/PL1", "Interlocks", interlocks.getNodeId(), -1, folders, () -> Unsigned.ushort(5));
        computed("Pelleting/PL1", "Die chip", NodeIds.ByteString, -1, folders, () -> DIE_CHIP);
        computed(
                "Bagging/CW1",
                "Accepted weights",
                NodeIds.Range,
                -1,
                folders,
                () -> ExtensionObject.encode(
                        getServer().getStaticEncodingContext(),
                        new Range((Double) target.value() - 210, (Double) target.value() + 340)));
    }

    private UaDataTypeNode dataType(String name, NodeId parent) {
        UaDataTypeNode type = new UaDataTypeNode(
                getNodeContext(),
                newNodeId(name),
                newQualifiedName(name),
                LocalizedText.english(name),
                LocalizedText.NULL_VALUE,
                Unsigned.uint(0),
                Unsigned.uint(0),
                false);
        getNodeManager().addNode(type);
        type.addReference(new Reference(type.getNodeId(), NodeIds.HasSubtype, parent.expanded(), false));
        return type;
    }

    private static EnumField field(long value, String words) {
        return new EnumField(value, LocalizedText.english(words), LocalizedText.NULL_VALUE, words);
    }

    private void computed(
            String path,
            String name,
            NodeId dataType,
            int rank,
            Map<String, UaFolderNode> folders,
            Supplier<Object> value) {
        UaVariableNode node = UaVariableNode.builder(getNodeContext())
                .setNodeId(newNodeId(path + "/" + name))
                .setBrowseName(newQualifiedName(name))
                .setDisplayName(LocalizedText.english(name))
                .setDataType(dataType)
                .setValueRank(rank)
                .setTypeDefinition(NodeIds.BaseDataVariableType)
                .setAccessLevel(AccessLevel.READ_ONLY)
                .setUserAccessLevel(AccessLevel.READ_ONLY)
                .setValue(new DataValue(new Variant(value.get()), StatusCode.GOOD, DateTime.now(), DateTime.now()))
                .build();
        getNodeManager().addNode(node);
        folder(path, folders).addOrganizes(node);
        computed.add(new Computed(node, value));
    }

    private UaFolderNode folder(String path, Map<String, UaFolderNode> folders) {
        UaFolderNode known = folders.get(path);
        if (known != null) {
            return known;
        }
        int slash = path.lastIndexOf('/');
        String name = path.substring(slash + 1);
        UaFolderNode node = new UaFolderNode(
                getNodeContext(), newNodeId(path), newQualifiedName(name), LocalizedText.english(name));
        getNodeManager().addNode(node);
        if (slash < 0) {
            node.addReference(
                    new Reference(node.getNodeId(), NodeIds.Organizes, NodeIds.ObjectsFolder.expanded(), false));
        } else {
            folder(path.substring(0, slash), folders).addOrganizes(node);
        }
        folders.put(path, node);
        return node;
    }

    private UaVariableNode variable(PlantTag tag) {
        boolean analogue = tag.hasRange();
        UaVariableNode node = UaVariableNode.builder(getNodeContext())
                .setNodeId(newNodeId(tag.path() + "/" + tag.name()))
                .setBrowseName(newQualifiedName(tag.name()))
                .setDisplayName(LocalizedText.english(tag.name()))
                .setDescription(LocalizedText.english(tag.description()))
                .setDataType(dataType(tag.value()))
                .setTypeDefinition(analogue ? NodeIds.AnalogItemType : NodeIds.BaseDataVariableType)
                .setAccessLevel(access(tag))
                .setUserAccessLevel(access(tag))
                .setHistorizing(true)
                .setValue(value(tag))
                .build();
        getNodeManager().addNode(node);
        if (!tag.unit().isEmpty()) {
            LocalizedText unit = LocalizedText.english(tag.unit());
            property(
                    node,
                    "EngineeringUnits",
                    NodeIds.EUInformation,
                    encoded(new EUInformation("http://www.opcfoundation.org/UA/units/un/cefact", -1, unit, unit)));
        }
        if (analogue) {
            property(node, "EURange", NodeIds.Range, encoded(new Range(tag.low(), tag.high())));
        }
        return node;
    }

    private static Set<AccessLevel> access(PlantTag tag) {
        return tag.writable()
                ? Set.of(AccessLevel.CurrentRead, AccessLevel.CurrentWrite, AccessLevel.HistoryRead)
                : Set.of(AccessLevel.CurrentRead, AccessLevel.HistoryRead);
    }

    private ExtensionObject encoded(org.eclipse.milo.opcua.stack.core.types.UaStructuredType value) {
        return ExtensionObject.encode(getServer().getStaticEncodingContext(), value);
    }

    private void property(UaNode owner, String name, NodeId dataType, Object value) {
        UaVariableNode property = UaVariableNode.builder(getNodeContext())
                .setNodeId(newNodeId(owner.getNodeId().getIdentifier() + "." + name))
                .setBrowseName(new QualifiedName(0, name))
                .setDisplayName(LocalizedText.english(name))
                .setDataType(dataType)
                .setTypeDefinition(NodeIds.PropertyType)
                .setAccessLevel(AccessLevel.READ_ONLY)
                .setUserAccessLevel(AccessLevel.READ_ONLY)
                .setValue(new DataValue(new Variant(value)))
                .build();
        getNodeManager().addNode(property);
        owner.addReference(new Reference(
                owner.getNodeId(), NodeIds.HasProperty, property.getNodeId().expanded(), true));
    }

    private static NodeId dataType(Object value) {
        if (value instanceof Double) {
            return NodeIds.Double;
        }
        if (value instanceof Boolean) {
            return NodeIds.Boolean;
        }
        if (value instanceof Integer) {
            return NodeIds.Int32;
        }
        return value instanceof Long ? NodeIds.Int64 : NodeIds.String;
    }

    private static DataValue value(PlantTag tag) {
        StatusCode status = new StatusCode(tag.health().statusCode());
        return new DataValue(new Variant(tag.value()), status, new DateTime(tag.sourceTime()), DateTime.now());
    }

    /** Hands clients' writes to the plant, and what changed in the plant to clients. */
    void publish() {
        nodes.forEach((tag, node) -> {
            Object written = node.getValue().getValue().getValue();
            if (tag.writable() && written != null && !written.equals(tag.value()) && !tag.takeChanged()) {
                tag.write(written, Instant.now());
                tag.takeChanged();
                push(node, value(tag));
            } else if (tag.takeChanged()) {
                push(node, value(tag));
            }
        });
        for (Computed each : computed) {
            Object next = each.value().get();
            if (!Objects.deepEquals(next, each.node().getValue().getValue().getValue())) {
                push(each.node(), new DataValue(new Variant(next), StatusCode.GOOD, DateTime.now(), DateTime.now()));
            }
        }
    }

    private void push(UaVariableNode node, DataValue value) {
        node.setValue(value);
        history.keep(node.getNodeId(), value);
        items.getOrDefault(node.getNodeId(), List.of()).forEach(item -> item.setValue(part(item, value)));
    }

    /** The element that an item asks for with its index range; else the whole value. */
    private static DataValue part(DataItem item, DataValue value) {
        String range = item.getReadValueId().getIndexRange();
        Object array = value.getValue().getValue();
        if (range == null
                || range.isEmpty()
                || array == null
                || !array.getClass().isArray()) {
            return value;
        }
        int index = Integer.parseInt(range);
        return index < Array.getLength(array)
                ? new DataValue(
                        new Variant(new Double[] {(Double) Array.get(array, index)}),
                        value.getStatusCode(),
                        value.getSourceTime(),
                        value.getServerTime())
                : new DataValue(
                        Variant.NULL_VALUE, new StatusCode(0x80370000L), value.getSourceTime(), value.getServerTime());
    }

    @Override
    public List<HistoryReadResult> historyRead(
            HistoryReadContext context,
            HistoryReadDetails details,
            TimestampsToReturn timestamps,
            List<HistoryReadValueId> nodes) {
        return nodes.stream()
                .map(node -> details instanceof ReadRawModifiedDetails raw
                        ? history.read(getServer(), node, raw)
                        : new HistoryReadResult(new StatusCode(0x80710000L), ByteString.NULL_VALUE, null))
                .toList();
    }

    @Override
    public void onDataItemsCreated(List<DataItem> created) {
        for (DataItem item : created) {
            NodeId node = item.getReadValueId().getNodeId();
            PlantTag tag = tagOf.get(node);
            Optional<Computed> made = computed.stream()
                    .filter(each -> each.node().getNodeId().equals(node))
                    .findFirst();
            if ((tag != null || made.isPresent())
                    && item.getReadValueId().getAttributeId().equals(AttributeId.Value.uid())) {
                items.computeIfAbsent(node, id -> new CopyOnWriteArrayList<>()).add(item);
                item.setValue(
                        tag != null ? value(tag) : part(item, made.get().node().getValue()));
            }
        }
    }

    @Override
    public void onDataItemsModified(List<DataItem> modified) {
        // Changes are pushed as they happen, whatever the sampling interval.
    }

    @Override
    public void onDataItemsDeleted(List<DataItem> deleted) {
        deleted.forEach(item -> items.computeIfPresent(item.getReadValueId().getNodeId(), (node, present) -> {
            present.remove(item);
            return present;
        }));
    }

    @Override
    public void onMonitoringModeChanged(List<MonitoredItem> changed) {
        // An item that is switched off does not take values by itself.
    }
}
