import { configure } from '@testing-library/react';

// What is waited for comes late on a busy machine.
configure({ asyncUtilTimeout: 30_000 });
