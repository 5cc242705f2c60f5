namespace Glenfrost.Application;

/// <summary>Another tab, device or person saved the same record in the same moment; nothing of this is written.</summary>
public sealed class ChangedMeanwhileException(Exception inner) : Exception("Somebody else saved the same record in the same moment.", inner);
