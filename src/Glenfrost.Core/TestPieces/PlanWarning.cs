using System.Text.Json;
using System.Text.Json.Serialization;

namespace Glenfrost.Core.TestPieces;

/// <summary>
/// What a tester should know before printing. Numbers and names of each stand in the order in which its comment has them; what has none says its name.
/// </summary>
public enum PlanWarningKind
{
    /// <summary>A sentence of a plan that was stored in version 1; names: the sentence.</summary>
    Said,

    /// <summary>Hotter than advised, °C; numbers: temperature, advised.</summary>
    AboveAdvised,

    /// <summary>Colder than advised, °C; numbers: temperature, advised.</summary>
    BelowAdvised,

    /// <summary>Above the liner's continuous limit, °C; numbers: temperature, limit.</summary>
    AboveContinuous,

    /// <summary>Some sections are above the liner's continuous limit; numbers: limit in °C and, where they are known, minutes above it.</summary>
    SectionsAboveContinuous,

    /// <summary>Nobody measured the spool's diameter.</summary>
    DiameterUnknown,

    /// <summary>The filament is oval; numbers: by how much, mm.</summary>
    Oval,

    /// <summary>Its diameter differs along the spool; numbers: spread and mean, mm.</summary>
    Uneven,

    /// <summary>The profile counts with another diameter; numbers: the profile's, measured, mm.</summary>
    OtherDiameter,

    /// <summary>
    /// The spool should be dried first; numbers: see <see cref="Filaments.DrynessAdvice.Numbers"/>; names: its state, then what damp filament spoils:
    /// flow or strings.
    /// </summary>
    DryFirst,

    /// <summary>Nobody knows whether the spool is dry.</summary>
    DrynessUnknown,

    /// <summary>The least layer time slows half of the layers or more; numbers: slowed layers, all layers, slowest and fastest of what is left in mm/s, least
    /// layer time in s; names: where that time is from, or nothing.</summary>
    Slowed,

    /// <summary>Layers are too short even at the slowest speed; numbers: how many, least layer time in s, slowest speed in mm/s, shortest in s.</summary>
    TooShort,

    /// <summary>The print waits at each change.</summary>
    WaitsAtChanges,

    /// <summary>There is no room for a prime line.</summary>
    NoPrimeLine,

    /// <summary>A family that shrinks much on an open printer; names: family, machine.</summary>
    OpenPrinter,

    /// <summary>The same behind a draught shield; names: family, machine.</summary>
    DraughtShieldOnly,

    /// <summary>The fan runs faster than the family bears; numbers: fan and limit, %; names: family.</summary>
    FanTooFast,

    /// <summary>The brim is narrow, or there is none; numbers: brim and what would hold, mm; names: family.</summary>
    NarrowBrim,

    /// <summary>The bed is cooler than the family asks; numbers: bed, least, and where it is less than that the bed's maximum, °C; names: family.</summary>
    CoolBed,

    /// <summary>The first layer's bed is cooler than the family asks; numbers: bed, least, °C; names: family.</summary>
    CoolFirstBed,

    /// <summary>The filament is stiff; names: family.</summary>
    StiffFilament,

    /// <summary>A stub below 25 mm.</summary>
    ShortStub,

    /// <summary>The heater's lag spoils layers; numbers: layers, of a section's.</summary>
    HeaterLag,

    /// <summary>A slender tower without or with a brim; numbers: height and depth in mm, slenderness, from which one is slender, 1 for a brim.</summary>
    Slender,

    /// <summary>The first layer is colder than the print; numbers: °C of both.</summary>
    ColderThanPrint,

    /// <summary>An adhesive for grip.</summary>
    GripAdhesive,

    /// <summary>A release layer.</summary>
    ReleaseLayer,

    /// <summary>The scale is too coarse; numbers: loss in %, resolution in g, mass of a sample in g, points in %, length that would do in mm.</summary>
    CoarseScale,

    /// <summary>Half a millimetre of height is much flow; numbers: mm³/s.</summary>
    CoarseRise,

    /// <summary>
    /// What lets a tube's fastest part be reached; numbers: its speed in mm/s, the tube across in mm, what acceleration allows in mm/s, filament in mm/s.
    /// </summary>
    TubeReaches,

    /// <summary>Nobody measured a wall that does not foam.</summary>
    NoReferenceWall,

    /// <summary>Lines are too short for their speed; numbers: fast length and what is lost to speeding up and braking, mm.</summary>
    ShortLines,

    /// <summary>The fast part asks more than the flow limit; numbers: asked, limit, mm³/s.</summary>
    FastPartStarved,

    /// <summary>Finer than the readings tell; numbers: readings, width in mm, half-width in %, tolerance in %, what would be shown in %.</summary>
    FineTolerance,

    /// <summary>Longer than usual for the drive; numbers: usual length in mm; names: long-tube or direct, then "soft" where the filament is.</summary>
    LongRetraction,

    /// <summary>Reeds wider than 5 mm.</summary>
    WideReeds,

    /// <summary>A tip that can't be slowed to all of its times; numbers: what its last layers last at most, s, slowest speed, mm/s, longest time, s.</summary>
    ShortTip,

    /// <summary>Two arms that differ in their files would be printed from one: its name.</summary>
    SameFile,

    /// <summary>The start code leaves a flow override; numbers: %; names: machine.</summary>
    OverrideInStart,

    /// <summary>The feed is measured colder than advised; numbers: temperature, advised, °C.</summary>
    FeedBelowAdvised,

    /// <summary>The feed is fast; numbers: mm/min.</summary>
    FastFeed,

    /// <summary>Fewer than three repeats.</summary>
    FewRepeats,
}

/// <summary>A warning of a plan or a piece: its kind with the numbers and names that its words need. Plans store it so; Application words it.</summary>
[JsonConverter(typeof(PlanWarningConverter))]
public sealed record PlanWarning
{
    /// <summary>A warning.</summary>
    /// <param name="kind">What it is.</param>
    /// <param name="numbers">In the order that its kind says.</param>
    public PlanWarning(PlanWarningKind kind, params IReadOnlyList<double> numbers)
        : this(kind, numbers, [])
    {
    }

    /// <summary>A warning that needs names.</summary>
    public PlanWarning(PlanWarningKind kind, IReadOnlyList<double> numbers, IReadOnlyList<string> names) => (Kind, Numbers, Names) = (kind, numbers, names);

    /// <summary>Nothing is said.</summary>
    public static PlanWarning None { get; } = new(PlanWarningKind.Said, [], [""]);

    /// <summary>What it is.</summary>
    public PlanWarningKind Kind { get; }

    /// <summary>In the order that its kind says.</summary>
    public IReadOnlyList<double> Numbers { get; }

    /// <summary>In the order that its kind says.</summary>
    public IReadOnlyList<string> Names { get; }

    /// <summary>The same where all of it is.</summary>
    public bool Equals(PlanWarning? other) =>
        other is not null && Kind == other.Kind && Numbers.SequenceEqual(other.Numbers) && Names.SequenceEqual(other.Names);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Kind, Numbers.Count > 0 ? Numbers[0] : 0, Names.Count > 0 ? Names[0] : "");
}

/// <summary>As plans store a warning: {"kind": "oval", "numbers": [0.04], "names": []}. Version 1 stored a sentence in its place.</summary>
internal sealed class PlanWarningConverter : JsonConverter<PlanWarning>
{
    private sealed record Stored(string Kind, IReadOnlyList<double>? Numbers = null, IReadOnlyList<string>? Names = null);

    public override PlanWarning Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
    {
        if (reader.TokenType == JsonTokenType.String)
            return new(PlanWarningKind.Said, [], [reader.GetString()!]);
        var stored = JsonSerializer.Deserialize<Stored>(ref reader, options) ?? throw new JsonException("A warning is empty.");
        return Enum.TryParse<PlanWarningKind>(stored.Kind, true, out var kind) && Enum.IsDefined(kind)
            ? new(kind, stored.Numbers ?? [], stored.Names ?? [])
            : throw new JsonException($"{stored.Kind} is no warning of a plan.");
    }

    public override void Write(Utf8JsonWriter writer, PlanWarning value, JsonSerializerOptions options) =>
        JsonSerializer.Serialize(
            writer, new Stored(JsonNamingPolicy.CamelCase.ConvertName(value.Kind.ToString()), value.Numbers, value.Names.Count > 0 ? value.Names : null),
            options);
}
