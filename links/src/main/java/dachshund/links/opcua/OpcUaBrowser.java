package dachshund.links.opcua;

import dachshund.core.source.PlantLink.Found;
import dachshund.core.source.PlantLink.Page;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagInfo;
import java.lang.reflect.Array;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.stack.core.AttributeId;
import org.eclipse.milo.opcua.stack.core.NodeIds;
import org.eclipse.milo.opcua.stack.core.OpcUaDataType;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.UaRuntimeException;
import org.eclipse.milo.opcua.stack.core.types.builtin.ByteString;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.ExpandedNodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.ExtensionObject;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.builtin.NodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.QualifiedName;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.UByte;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;
import org.eclipse.milo.opcua.stack.core.types.enumerated.BrowseDirection;
import org.eclipse.milo.opcua.stack.core.types.enumerated.BrowseResultMask;
import org.eclipse.milo.opcua.stack.core.types.enumerated.NodeClass;
import org.eclipse.milo.opcua.stack.core.types.enumerated.TimestampsToReturn;
import org.eclipse.milo.opcua.stack.core.types.structured.BrowseDescription;
import org.eclipse.milo.opcua.stack.core.types.structured.BrowseResult;
import org.eclipse.milo.opcua.stack.core.types.structured.EUInformation;
import org.eclipse.milo.opcua.stack.core.types.structured.ReadValueId;
import org.eclipse.milo.opcua.stack.core.types.structured.ReferenceDescription;

/**
 * Walks a server's address space one folder at a time and page by page; variables come with their type, unit, range and
 * description. The references of a folder are listed once and cut into pages here, because a continuation point of the
 * server does not outlive the session.
 */
final class OpcUaBrowser {

    private static final int PIECE = 200;
    private static final int ELEMENTS = 64;
    private static final int ALL_RESULTS = BrowseResultMask.All.getValue();
    /** How far up a data type is followed. */
    private static final int GENERATIONS = 8;

    private final OpcUaClient client;

    OpcUaBrowser(OpcUaClient client) {
        this.client = client;
    }

    /** @param from index of the first reference of the page, as text; empty for 0 */
    Page page(String folder, String path, String from) throws UaException {
        NodeId parent = folder.isEmpty() ? NodeIds.ObjectsFolder : node(folder);
        int classes = NodeClass.Object.getValue() | NodeClass.Variable.getValue();
        List<ReferenceDescription> children = references(parent, NodeIds.HierarchicalReferences, classes).stream()
                .filter(child -> !NodeIds.HasProperty.equals(child.getReferenceTypeId()))
                .filter(child -> !(folder.isEmpty()
                        && child.getNodeId().getNamespaceIndex().intValue() == 0)) // the server's own housekeeping
                .toList();
        int first = from.isEmpty() ? 0 : Integer.parseInt(from);
        int end = Math.min(children.size(), first + PIECE);
        List<Found> found = new ArrayList<>();
        List<ReferenceDescription> variables = new ArrayList<>();
        for (ReferenceDescription child : children.subList(Math.min(first, end), end)) {
            if (child.getNodeClass() == NodeClass.Object) {
                found.add(new Found.Folder(address(child.getNodeId()), path, name(child)));
            } else {
                variables.add(child);
            }
        }
        if (!variables.isEmpty()) {
            found.addAll(describe(variables, path));
        }
        return new Page(found, end < children.size() ? Integer.toString(end) : "");
    }

    /** The node of an address as kept in definitions, with the namespace index it has on this server now. */
    NodeId node(String address) throws UaException {
        return ExpandedNodeId.parse(address).toNodeIdOrThrow(client.getNamespaceTable());
    }

    private String address(ExpandedNodeId id) {
        String text = id.toNodeId(client.getNamespaceTable()).orElseThrow().toParseableString();
        int index = id.getNamespaceIndex().intValue();
        return index == 0 ? text : "nsu=" + client.getNamespaceTable().get(index) + text.substring(text.indexOf(';'));
    }

    private static String name(ReferenceDescription reference) {
        LocalizedText display = reference.getDisplayName();
        return display != null
                        && display.getText() != null
                        && !display.getText().isBlank()
                ? display.getText()
                : reference.getBrowseName().getName();
    }

    private List<ReferenceDescription> references(NodeId node, NodeId type, int classes) throws UaException {
        BrowseResult result = client.browse(new BrowseDescription(
                node, BrowseDirection.Forward, type, true, Unsigned.uint(classes), Unsigned.uint(ALL_RESULTS)));
        List<ReferenceDescription> all = new ArrayList<>();
        while (true) {
            if (result.getReferences() != null) {
                all.addAll(List.of(result.getReferences()));
            }
            ByteString more = result.getContinuationPoint();
            if (more == null || more.isNull()) {
                return all;
            }
            result = client.browseNext(false, List.of(more)).getResults()[0];
        }
    }

    private List<Found> describe(List<ReferenceDescription> variables, String path) throws UaException {
        List<ReadValueId> wanted = new ArrayList<>();
        List<BrowseDescription> properties = new ArrayList<>();
        List<AttributeId> attributes = List.of(
                AttributeId.DataType, AttributeId.ValueRank, AttributeId.Description, AttributeId.UserAccessLevel);
        for (ReferenceDescription variable : variables) {
            NodeId node = variable.getNodeId().toNodeIdOrThrow(client.getNamespaceTable());
            attributes.forEach(
                    attribute -> wanted.add(new ReadValueId(node, attribute.uid(), null, QualifiedName.NULL_VALUE)));
            properties.add(propertiesOf(node));
        }
        DataValue[] facts = client.read(0, TimestampsToReturn.Neither, wanted).getResults();
        List<NodeId> types = strangeTypes(facts, attributes.size());
        types.forEach(type -> properties.add(propertiesOf(type)));
        Map<Integer, Properties> known = properties(properties, types);
        List<Found> found = new ArrayList<>();
        for (int i = 0; i < variables.size(); i++) {
            NodeId dataType = facts[i * 4].getValue().getValue() instanceof NodeId type ? type : NodeId.NULL_VALUE;
            boolean scalar = !(facts[i * 4 + 1].getValue().getValue() instanceof Integer rank) || rank < 0;
            String description =
                    facts[i * 4 + 2].getValue().getValue() instanceof LocalizedText text && text.getText() != null
                            ? text.getText()
                            : "";
            boolean writable =
                    facts[i * 4 + 3].getValue().getValue() instanceof UByte access && (access.intValue() & 2) != 0;
            ReferenceDescription variable = variables.get(i);
            Properties own = known.getOrDefault(i, Properties.NONE);
            String ofType = known.getOrDefault(variables.size() + types.indexOf(dataType), Properties.NONE).states;
            // Values of an enumeration are whole numbers (OPC 10000-6, 5.1.4; section from memory).
            DataKind kind = ofType.isEmpty() ? OpcUaValues.kind(dataType) : DataKind.INTEGER;
            String states = own.states.isEmpty() ? ofType : own.states;
            TagInfo tag = new TagInfo(
                            address(variable.getNodeId()),
                            path,
                            name(variable),
                            scalar ? kind : DataKind.OTHER,
                            own.unit,
                            description,
                            writable)
                    .withRange(own.range)
                    .withHow(states.isEmpty() ? Map.of() : Map.of(TagInfo.STATES, states));
            found.add(new Found.Tag(tag));
            if (!scalar || kind == DataKind.OTHER) {
                parts(tag, kind, scalar).forEach(part -> found.add(new Found.Tag(part)));
            }
        }
        return found;
    }

    /** The elements of an array or the fields of a structure, as the value has them now. */
    private List<TagInfo> parts(TagInfo tag, DataKind kind, boolean scalar) throws UaException {
        Object value = client.readValue(0, TimestampsToReturn.Neither, node(tag.address()))
                .getValue()
                .getValue();
        List<TagInfo> parts = new ArrayList<>();
        if (value == null) {
            return parts;
        }
        if (!scalar && value.getClass().isArray()) {
            for (int i = 0; i < Math.min(ELEMENTS, Array.getLength(value)); i++) {
                parts.add(OpcUaPart.element(tag, kind, i));
            }
        } else if (value instanceof ExtensionObject) {
            OpcUaPart.fields(value, OpcUaPart.context(client))
                    .forEach((field, content) -> parts.add(OpcUaPart.field(tag, OpcUaValues.kindOf(content), field)));
        }
        return parts;
    }

    private static BrowseDescription propertiesOf(NodeId node) {
        return new BrowseDescription(
                node,
                BrowseDirection.Forward,
                NodeIds.HasProperty,
                true,
                Unsigned.uint(NodeClass.Variable.getValue()),
                Unsigned.uint(ALL_RESULTS));
    }

    /** Types that are none of the standard's own: enumerations may be among them. */
    private static List<NodeId> strangeTypes(DataValue[] facts, int step) {
        List<NodeId> types = new ArrayList<>();
        for (int i = 0; i < facts.length; i += step) {
            if (facts[i].getValue().getValue() instanceof NodeId type
                    && OpcUaDataType.fromNodeId(type) == null
                    && OpcUaValues.kind(type) == DataKind.OTHER
                    && !types.contains(type)) {
                types.add(type);
            }
        }
        return types;
    }

    /** What the properties of a variable, or of a data type, say. */
    private record Properties(String unit, Optional<Range> range, String states) {
        private static final Properties NONE = new Properties("", Optional.empty(), "");

        Properties with(String name, Object value) {
            if (value instanceof EUInformation eu && eu.getDisplayName().getText() != null) {
                return new Properties(eu.getDisplayName().getText(), range, states);
            }
            if (value instanceof org.eclipse.milo.opcua.stack.core.types.structured.Range limits
                    && limits.getLow() < limits.getHigh()) {
                return new Properties(unit, Optional.of(new Range(limits.getLow(), limits.getHigh())), states);
            }
            if (name.equals(OpcUaStates.DEFINITION) && !states.isEmpty()) {
                return this;
            }
            String more = OpcUaStates.words(name, value);
            return more.isEmpty() ? this : new Properties(unit, range, states.isEmpty() ? more : states + "\n" + more);
        }
    }

    /**
     * By the index of their owner (OPC 10000-8, 5.6.2 and 5.6.3; OPC 10000-3 for states).
     *
     * @param types data types, the last of the owners
     */
    private Map<Integer, Properties> properties(List<BrowseDescription> owners, List<NodeId> types) throws UaException {
        List<BrowseResult> results = client.browse(owners);
        List<Integer> owner = new ArrayList<>();
        List<String> names = new ArrayList<>();
        List<ReadValueId> wanted = new ArrayList<>();
        for (int i = 0; i < results.size(); i++) {
            ReferenceDescription[] references = results.get(i).getReferences();
            for (ReferenceDescription reference : references == null ? new ReferenceDescription[0] : references) {
                String name = reference.getBrowseName().getName();
                if ("EngineeringUnits".equals(name) || "EURange".equals(name) || OpcUaStates.NAMES.contains(name)) {
                    owner.add(i);
                    names.add(name);
                    wanted.add(new ReadValueId(
                            reference.getNodeId().toNodeIdOrThrow(client.getNamespaceTable()),
                            AttributeId.Value.uid(),
                            null,
                            QualifiedName.NULL_VALUE));
                }
            }
        }
        Set<NodeId> enumerations = enumerations(types);
        for (int i = 0; i < types.size(); i++) {
            if (enumerations.contains(types.get(i))) {
                owner.add(owners.size() - types.size() + i);
                names.add(OpcUaStates.DEFINITION);
                wanted.add(new ReadValueId(
                        types.get(i), AttributeId.DataTypeDefinition.uid(), null, QualifiedName.NULL_VALUE));
            }
        }
        Map<Integer, Properties> known = new HashMap<>();
        if (!wanted.isEmpty()) {
            DataValue[] values =
                    client.read(0, TimestampsToReturn.Neither, wanted).getResults();
            for (int i = 0; i < values.length; i++) {
                Object raw = values[i].getValue().getValue();
                known.put(
                        owner.get(i),
                        known.getOrDefault(owner.get(i), Properties.NONE).with(names.get(i), decoded(raw)));
            }
        }
        return known;
    }

    /**
     * Those that descend from Enumeration: sets of bits are defined by the same structure, but there a number is a bit and no
     * value (OPC 10000-3, 8.50; section from memory).
     */
    private Set<NodeId> enumerations(List<NodeId> types) throws UaException {
        Set<NodeId> found = new HashSet<>();
        Map<NodeId, NodeId> parents = new HashMap<>();
        types.forEach(type -> parents.put(type, type));
        for (int generation = 0; generation < GENERATIONS && !parents.isEmpty(); generation++) {
            List<NodeId> asked = List.copyOf(parents.keySet());
            List<BrowseResult> results = client.browse(asked.stream()
                    .map(type -> new BrowseDescription(
                            parents.get(type),
                            BrowseDirection.Inverse,
                            NodeIds.HasSubtype,
                            true,
                            Unsigned.uint(NodeClass.DataType.getValue()),
                            Unsigned.uint(ALL_RESULTS)))
                    .toList());
            for (int i = 0; i < asked.size(); i++) {
                ReferenceDescription[] above = results.get(i).getReferences();
                if (above == null || above.length == 0) {
                    parents.remove(asked.get(i));
                    continue;
                }
                NodeId parent = above[0].getNodeId().toNodeIdOrThrow(client.getNamespaceTable());
                parents.put(asked.get(i), parent);
                if (parent.equals(NodeIds.Enumeration)) {
                    found.add(asked.get(i));
                    parents.remove(asked.get(i));
                }
            }
        }
        return found;
    }

    /** What the server's encoding says; a property that cannot be read says nothing, and takes no tag with it. */
    private Object decoded(Object raw) {
        try {
            if (raw instanceof ExtensionObject object) {
                return object.decode(client.getStaticEncodingContext());
            }
            return raw instanceof ExtensionObject[] objects
                    ? Arrays.stream(objects)
                            .map(each -> each.decode(client.getStaticEncodingContext()))
                            .toArray()
                    : raw;
        } catch (UaRuntimeException unreadable) {
            return null;
        }
    }
}
