namespace Glenfrost.Core.Gcode.Reading;

/// <summary>Is told what a file does, in its order. The state is that before the move, and that after any other command.</summary>
public abstract class GcodeSink
{
    /// <summary>A move, before it is done.</summary>
    public virtual void Move(ref readonly GcodeMove move, MachineState state)
    {
    }

    /// <summary>Any other command, after it is done. Also commands that mean nothing here.</summary>
    public virtual void Command(GcodeWords words, ReadOnlySpan<byte> line, MachineState state, int number, long offset)
    {
    }

    /// <summary>Stands still for so many seconds.</summary>
    public virtual void Dwell(double seconds)
    {
    }

    /// <summary>A line that is only a comment.</summary>
    public virtual void Comment(ReadOnlySpan<byte> text, MachineState state, int number, long offset)
    {
    }

    /// <summary>A line that can't be read; nothing of it is done.</summary>
    public virtual void Unreadable(string why, ReadOnlySpan<byte> line, int number, long offset)
    {
    }

    /// <summary>The bytes of each line with its line feed, after it was done; only where <see cref="WantsBytes"/>.</summary>
    /// <param name="bytes">The line; of one that is too long its parts, one after another.</param>
    /// <param name="words">Its words; those of the line before where only the rest of a long line comes.</param>
    public virtual void Whole(ReadOnlySpan<byte> bytes, GcodeWords words)
    {
    }

    /// <summary>True for a sink that copies.</summary>
    public virtual bool WantsBytes => false;

    /// <summary>True where reading may end here.</summary>
    public virtual bool Enough => false;
}
