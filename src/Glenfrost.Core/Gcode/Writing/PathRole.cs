namespace Glenfrost.Core.Gcode.Writing;

/// <summary>What a line is for.</summary>
public enum PathRole
{
    /// <summary>Moves without extrusion.</summary>
    Travel,

    /// <summary>The visible wall.</summary>
    OuterWall,

    /// <summary>A wall behind it.</summary>
    InnerWall,

    /// <summary>A part too narrow for two lines.</summary>
    ThinLine,

    /// <summary>Solid fill.</summary>
    Fill,

    /// <summary>Fill that nothing covers.</summary>
    Top,

    /// <summary>A line over air.</summary>
    Bridge,

    /// <summary>A line around the piece that primes the nozzle.</summary>
    Skirt,

    /// <summary>A rim that holds the piece down.</summary>
    Brim,
}

/// <summary>Names of roles as files and pages say them.</summary>
public static class PathRoles
{
    /// <summary>The name of a role.</summary>
    public static string Name(this PathRole role) => role switch
    {
        PathRole.OuterWall => "outer wall",
        PathRole.InnerWall => "inner wall",
        PathRole.ThinLine => "thin line",
        PathRole.Fill => "solid fill",
        PathRole.Top => "top fill",
        PathRole.Bridge => "bridge",
        PathRole.Skirt => "skirt",
        PathRole.Brim => "brim",
        _ => "travel",
    };
}
