namespace Glenfrost.Storage;

/// <summary>Why Glenfrost does not start, or a command does not begin: one plain sentence or two, and the code that the command ends with.</summary>
/// <param name="fault">What it is.</param>
/// <param name="message">What is wrong, and what would be right.</param>
public sealed class StartRefusedException(StartFault fault, string message, Exception? inner = null) : Exception(message, inner)
{
    /// <summary>What keeps it from starting; its number is the command's exit code.</summary>
    public StartFault Fault => fault;
}

/// <summary>What keeps Glenfrost from starting. The numbers are the exit codes.</summary>
public enum StartFault
{
    /// <summary>The database can't be read.</summary>
    Damaged = 5,

    /// <summary>The disk is full.</summary>
    Full = 6,

    /// <summary>The folder can't be written.</summary>
    ReadOnly = 7,

    /// <summary>Another Glenfrost, or another program, holds the folder.</summary>
    Locked = 8,

    /// <summary>A newer version wrote the database.</summary>
    Newer = 9,

    /// <summary>Backups or files stand there, but no database.</summary>
    Missing = 10,

    /// <summary>The disk reports an error.</summary>
    Failing = 11,
}
